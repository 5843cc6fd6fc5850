// Runs in a world of its own beside the page: tells when the page has stopped building itself.
(() => {
  if (window.magpieQuiet) return;
  let last = performance.now();
  const start = () => new MutationObserver(() => { last = performance.now(); })
    .observe(document.body, { childList: true, characterData: true, subtree: true });
  if (document.body) start(); else document.addEventListener("DOMContentLoaded", start);
  window.magpieQuiet = () => JSON.stringify({
    idle_ms: performance.now() - last,
    is_ready: document.readyState === "complete",
    length: document.body ? document.body.innerText.length : 0,
  });
})();
