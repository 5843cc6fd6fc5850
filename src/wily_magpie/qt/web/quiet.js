// Runs in a world of its own beside the page: tells when the page has stopped building itself.
// Elements with names of ours hide what a document has (document.body, document.readyState, window.anything): all is taken
// from the prototypes, and what is ours is asked for as an own property.
(() => {
  if (Object.prototype.hasOwnProperty.call(window, "magpieQuiet")) return;
  const getter = (kind, name) => Object.getOwnPropertyDescriptor(kind.prototype, name).get;
  const body_of = getter(Document, "body"), ready_of = getter(Document, "readyState"), text_of = getter(HTMLElement, "innerText");
  const find = Document.prototype.querySelector;
  const moving = "script:not([type*=json i]), meta[http-equiv=refresh i], [onload]";
  let last = performance.now();
  const start = () => new MutationObserver(() => { last = performance.now(); })
    .observe(body_of.call(document), { childList: true, characterData: true, subtree: true });
  if (body_of.call(document)) start();
  else EventTarget.prototype.addEventListener.call(document, "DOMContentLoaded", start);
  const told = () => {
    const body = body_of.call(document);
    return JSON.stringify({
      idle_ms: performance.now() - last,
      is_still: find.call(document, moving) === null,
      is_ready: ready_of.call(document) === "complete",
      length: body ? text_of.call(body).length : 0,
    });
  };
  Object.defineProperty(window, "magpieQuiet", { value: told });
})();
