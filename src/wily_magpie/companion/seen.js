// The page as the person sees it. Runs in a world of its own; the value of the last statement is the result.
// The live page is read and never changed: what is corrected is a copy in a document without a window, where nothing runs or loads.
// Nothing is asked of the document or of forms by name: elements with such names hide it.
(async () => {
  "use strict";
  const api = globalThis.browser ?? globalThis.chrome;
  const of = (kind, name) => Object.getOwnPropertyDescriptor(kind.prototype, name);
  const get = (kind, name, one) => of(kind, name).get.call(one);
  const all = (root, what) => (root instanceof Document ? Document : root instanceof DocumentFragment ? DocumentFragment : Element)
    .prototype.querySelectorAll.call(root, what);
  const name_of = (el) => get(Element, "localName", el);
  const attribute = (el, name) => Element.prototype.getAttribute.call(el, name);
  const inert = DOMImplementation.prototype.createHTMLDocument.call(get(Document, "implementation", document), "");
  const root = get(Document, "documentElement", document);
  const SECRET = /(^|\s)(cc-|current-password|new-password|one-time-code)/i;
  const TOKEN = /csrf|xsrf|token|nonce|secret|session/i;
  const SHOWN_FIELDS = ["submit", "button", "reset"], READABLE = ["text", "url", "email", "number", "date", "search"];
  const TOUCHED = "input,textarea,option,img,iframe,script,meta";
  const MOST_FRAMES = 30;
  let frames = 0;

  const shadow_of = (el) => {
    try {
      return el.openOrClosedShadowRoot ?? api.dom?.openOrClosedShadowRoot(el) ?? get(Element, "shadowRoot", el);
    } catch {
      return null;
    }
  };
  // the same elements in the same order on both sides; what adds or takes away waits, else the two lists drift apart
  const correct = (live, copy) => {
    const later = [];
    const elements = all(live, "*");
    let copies = null;
    for (let at = 0; at < elements.length; at++) {
      const el = elements[at], tag = name_of(el);
      const inside = tag.includes("-") ? shadow_of(el) : tag === "form" ? null : get(Element, "shadowRoot", el);
      if (!inside) continue;
      copies ??= all(copy, "*");
      const to = copies[at];
      later.push(() => put_shadow(inside, to));
    }
    const touched = all(live, TOUCHED), to = all(copy, TOUCHED);
    for (let at = 0; at < touched.length; at++) touch(touched[at], to[at], later);
    for (const act of later) act();
  };
  const put_shadow = (inside, to) => {
    const template = inert.createElement("template"), part = inert.createElement("div");
    template.setAttribute("shadowrootmode", inside.mode);
    for (const child of inside.childNodes) part.append(inert.importNode(child, true));
    correct(inside, part);
    template.content.append(...part.childNodes);
    to.prepend(template);
  };
  const touch = (el, to, later) => {
    switch (name_of(el)) {
      case "input":
        if (["checkbox", "radio"].includes(el.type)) to.toggleAttribute("checked", el.checked);
        if (is_told(el)) to.setAttribute("data-told", "");
        break;
      case "option": to.toggleAttribute("selected", el.selected); break;
      case "img": if (/^https?:/.test(el.currentSrc)) to.setAttribute("src", el.currentSrc); break;
      case "script": if (!/^application\/ld\+json/i.test(attribute(el, "type") ?? "")) to.textContent = ""; break;
      case "meta": if (TOKEN.test(`${attribute(el, "name")} ${attribute(el, "property")}`)) to.removeAttribute("content"); break;
      case "iframe": {
        let body = null;
        try { body = el.contentDocument?.body; } catch { break; }
        if (!body || ++frames > MOST_FRAMES) break;
        later.push(() => {
          const part = inert.createElement("div");
          for (const child of body.childNodes) part.append(inert.importNode(child, true));
          correct(body, part);
          to.replaceWith(part);
        });
      }
    }
  };
  // what a site shows in a field that nobody can type into is a text of the page, such as an address to be copied
  const is_told = (el) => el.readOnly && el.value === el.defaultValue && READABLE.includes(el.type) && !SECRET.test(attribute(el, "autocomplete") ?? "");
  // no value that a person typed, or that the site hid, leaves the page: also not what lies in parts that are not shown
  const scrub = (part) => {
    for (const el of all(part, "input,textarea,noscript,iframe,template")) {
      switch (name_of(el)) {
        case "input":
          if (!SHOWN_FIELDS.includes(el.type) && el.getAttribute("data-told") === null) el.removeAttribute("value");
          el.removeAttribute("data-told");
          break;
        case "iframe": el.removeAttribute("srcdoc"); break;
        case "template": scrub(el.content); break;
        default: el.textContent = "";
      }
    }
  };
  const chosen = () => {
    const now = getSelection(), text = now ? now.toString().trim() : "";
    if (!text || !now.rangeCount) return null;
    const range = now.getRangeAt(0), body = get(Document, "body", document);
    const before = new Range(), behind = new Range();
    before.selectNodeContents(body);
    before.setEnd(range.startContainer, range.startOffset);
    behind.selectNodeContents(body);
    behind.setStart(range.endContainer, range.endOffset);
    return { exact: text.slice(0, 20000), prefix: before.toString().slice(-32), suffix: behind.toString().slice(0, 32), picture: "" };
  };
  const copy = inert.importNode(root, true);
  correct(root, copy);
  scrub(copy);
  const type = get(Document, "doctype", document);
  return {
    is_file: !/html|xml/.test(get(Document, "contentType", document)), title: get(Document, "title", document),
    html: (type ? "<!doctype html>" : "") + get(Element, "outerHTML", copy), chosen: chosen(),
  };
})();
