// Bytes of pictures that the page may read, signed in as the person is. Called with their addresses; gives what could be had.
globalThis.wilyMagpiePictures ??= async (addresses) => {
  "use strict";
  const MOST = 12000000, TOGETHER = 40000000, AT_ONCE = 6, PATIENCE_MS = 8000;
  const out = [], left = [...addresses];
  let size = 0;
  const as_text = (blob) => new Promise((done, failed) => {
    const reader = new FileReader();
    reader.onload = () => done(reader.result.slice(reader.result.indexOf(",") + 1));
    reader.onerror = () => failed(reader.error);
    reader.readAsDataURL(blob);
  });
  const one = async (address) => {
    const is_own = new URL(address).origin === location.origin;
    const answer = await fetch(address, {
      credentials: is_own ? "include" : "omit", cache: "force-cache", signal: AbortSignal.timeout(PATIENCE_MS),
    });
    const blob = await answer.blob();
    if (!answer.ok || !blob.type.startsWith("image/") || blob.size > MOST || size + blob.size > TOGETHER) return;
    size += blob.size;
    out.push({ address, type: blob.type, data: await as_text(blob) });
  };
  const work = async () => {
    for (let address = left.shift(); address; address = left.shift()) {
      try { await one(address); } catch { /* the program fetches it */ }
    }
  };
  await Promise.all(Array.from({ length: AT_ONCE }, work));
  return out;
};
undefined; // the value of a script has to be one that can be handed over
