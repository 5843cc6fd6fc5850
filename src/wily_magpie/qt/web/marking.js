// What a person points at in the page, and the marking mode: from block to block, sentence by sentence, by a text cursor.
// Runs in a world of its own. Nothing of the page is changed: what is pointed at is chosen or outlined by a style sheet of ours.
// Nothing is asked of the document or the window by name: elements with such names hide it.
(() => {
  if (Object.prototype.hasOwnProperty.call(window, "magpieMarking")) return;
  const getter = (kind, name) => Object.getOwnPropertyDescriptor(kind.prototype, name).get;
  const body_of = getter(Document, "body"), sheets = Object.getOwnPropertyDescriptor(Document.prototype, "adoptedStyleSheets");
  const at_point = Document.prototype.elementFromPoint;
  // one family of browsers has the one, the other the other
  const caret_at = (x, y) => {
    if (Document.prototype.caretRangeFromPoint) return Document.prototype.caretRangeFromPoint.call(document, x, y);
    const found = Document.prototype.caretPositionFromPoint.call(document, x, y);
    if (!found) return null;
    const range = make();
    range.setStart(found.offsetNode, found.offset);
    return range;
  };
  const make = () => Document.prototype.createRange.call(document);
  const BLOCKS = "p,li,h1,h2,h3,h4,h5,h6,blockquote,pre,td,th,dt,dd,figcaption,img,picture,video";
  const LONGEST = 20000, AROUND = 32;
  const sheet = new CSSStyleSheet();
  const FAR = 4;
  let is_on = false, current = null, is_cursor = false, is_dragged = false, is_exact = false, pressed = [0, 0];

  const selection = () => window.getSelection();
  const is_picture = (one) => one instanceof HTMLImageElement;
  const is_seen = (one) => {
    const box = Element.prototype.getBoundingClientRect.call(one);
    return box.width > 8 && box.height > 8 && (is_picture(one) || one.innerText.trim().length > 1);
  };
  const blocks = () => [...Element.prototype.querySelectorAll.call(body_of.call(document), BLOCKS)]
    .filter((one) => (is_picture(one) || !Element.prototype.querySelector.call(one, BLOCKS)) && is_seen(one));
  // an element by its place alone, since nothing of it may be changed
  const path_of = (one) => {
    const parts = [];
    for (let at = one; at && at.parentElement; at = at.parentElement) {
      parts.unshift(`:nth-child(${[...at.parentElement.children].indexOf(at) + 1})`);
    }
    return [":root", ...parts].join(" > ");
  };
  const outline = () => {
    const hover = is_on ? "img:hover { outline: 3px dashed #875C00; outline-offset: 2px; cursor: crosshair; }" : "";
    const shown = is_on && current ? `${path_of(current)} { outline: 2px solid #0A5C6B; outline-offset: 3px; }` : "";
    if (Object.prototype.hasOwnProperty.call(window, "magpiePut")) {  // where style sheets are put in from outside
      window.magpiePut("outline", `${hover}\n${shown}`);
      return;
    }
    sheet.replaceSync(`${hover}\n${shown}`);
    const there = sheets.get.call(document);
    if (!there.includes(sheet)) sheets.set.call(document, [...there, sheet]);
  };
  const passage_of = (range, text) => {
    const body = body_of.call(document), before = make(), behind = make();
    before.selectNodeContents(body);
    before.setEnd(range.startContainer, range.startOffset);
    behind.selectNodeContents(body);
    behind.setStart(range.endContainer, range.endOffset);
    return JSON.stringify({
      exact: text.trim().slice(0, LONGEST), prefix: before.toString().slice(-AROUND),
      suffix: behind.toString().slice(0, AROUND), picture: "",
    });
  };
  const picture_of = (one) => {
    const figure = Element.prototype.closest.call(one, "figure");
    const caption = figure ? Element.prototype.querySelector.call(figure, "figcaption") : null;
    const address = one.src && !one.src.startsWith("data:") ? one.src : one.currentSrc;
    return JSON.stringify({ exact: (one.alt || (caption ? caption.innerText : "")).trim(), prefix: "", suffix: "", picture: address });
  };
  // a range with the words whole in which it begins and ends
  const WORD = /[\p{L}\p{M}\p{N}_]/u, LINK = /['’‑-]/u;
  const is_within = (text, at) => WORD.test(text[at] ?? "") && (WORD.test(text[at - 1] ?? "") || (LINK.test(text[at - 1] ?? "") && WORD.test(text[at - 2] ?? "")));
  const is_before_link = (text, at) => LINK.test(text[at] ?? "") && WORD.test(text[at - 1] ?? "") && WORD.test(text[at + 1] ?? "");
  const with_whole_words = (range) => {
    const out = range.cloneRange();
    const { startContainer: first, endContainer: last } = out;
    let start = out.startOffset, end = out.endOffset;
    if (first.nodeType === 3) {
      while (start > 0 && start < first.data.length && (is_within(first.data, start) || is_before_link(first.data, start))) start -= 1;
      out.setStart(first, start);
    }
    if (last.nodeType === 3 && end > 0 && (first !== last || end > out.startOffset)) {
      while (end < last.data.length && (is_within(last.data, end) || is_before_link(last.data, end))) end += 1;
      out.setEnd(last, end);
    }
    return out;
  };
  const chosen = () => {
    const now = selection();
    if (now && !now.isCollapsed && now.rangeCount && now.toString().trim()) {
      const range = now.getRangeAt(0);
      const whole_words = is_cursor || is_exact ? range : with_whole_words(range);
      if (whole_words.toString() === range.toString()) return passage_of(range, now.toString());
      choose(whole_words);
      return passage_of(whole_words, selection().toString());
    }
    return is_on && current && is_picture(current) ? picture_of(current) : "";
  };
  const choose = (range) => {
    const now = selection();
    now.removeAllRanges();
    now.addRange(range);
  };
  const whole = (one) => {
    const range = make();
    range.selectNodeContents(one);
    return range;
  };
  // the text nodes of a block, and its sentences as ranges
  const nodes_of = (one) => {
    const walker = Document.prototype.createTreeWalker.call(document, one, NodeFilter.SHOW_TEXT), out = [];
    for (let node = walker.nextNode(); node; node = walker.nextNode()) out.push(node);
    return out;
  };
  const sentences_of = (one) => {
    const nodes = nodes_of(one), text = nodes.map((node) => node.data).join("");
    const place = (at, is_end) => {
      for (const node of nodes) {
        if (at < node.data.length || (is_end && at === node.data.length)) return [node, at];
        at -= node.data.length;
      }
      const last = nodes[nodes.length - 1];
      return [last, last.data.length];
    };
    const out = [];
    for (const piece of new Intl.Segmenter(undefined, { granularity: "sentence" }).segment(text)) {
      const bare = piece.segment.trim();
      if (!bare) continue;
      const start = piece.index + piece.segment.indexOf(bare), range = make();
      range.setStart(...place(start, false));
      range.setEnd(...place(start + bare.length, true));
      out.push(range);
    }
    return out;
  };
  const show_current = () => {
    outline();
    if (current) Element.prototype.scrollIntoView.call(current, { block: "nearest" });
  };
  const move_block = (by) => {
    const all = blocks();
    if (!all.length) return;
    let at = all.indexOf(current);
    if (at < 0) at = by > 0 ? all.findIndex((one) => Element.prototype.getBoundingClientRect.call(one).top >= 0) - 1 : 0;
    current = all[Math.max(0, Math.min(all.length - 1, at + by))];
    if (is_picture(current)) selection().removeAllRanges();
    else choose(whole(current));
    show_current();
  };
  const move_sentence = (by) => {
    if (!current || is_picture(current)) return move_block(by);
    const all = sentences_of(current), now = selection();
    const first = now.rangeCount ? now.getRangeAt(0) : null;
    const same = (one) => first && one.compareBoundaryPoints(Range.START_TO_START, first) === 0
      && one.compareBoundaryPoints(Range.END_TO_END, first) === 0;
    const at = all.findIndex(same), next = at < 0 ? (by > 0 ? 0 : all.length - 1) : at + by;
    if (all.length > 1 && next >= 0 && next < all.length) choose(all[next]);
    else move_block(by);
  };
  const move_cursor = (direction, granularity, does_extend) => {
    const now = selection();
    if (!now.rangeCount) move_block(1);
    if (!is_cursor && now.rangeCount) now.collapseToStart();
    is_cursor = true;
    now.modify(does_extend ? "extend" : "move", direction, granularity);
    if (!does_extend) {  // there is no cursor to be seen in a page: the letter that it stands before is chosen
      const range = now.getRangeAt(0).cloneRange();
      now.modify("extend", "forward", "character");
      if (now.isCollapsed) choose(range);
    }
    const node = now.focusNode;
    const element = node && (node.nodeType === 1 ? node : node.parentElement);
    if (element) Element.prototype.scrollIntoView.call(element, { block: "nearest" });
  };
  const clicked = (x, y) => {
    const now = selection();
    if (is_dragged && now && !now.isCollapsed && now.toString().trim()) return chosen();
    const one = at_point.call(document, x, y);
    if (!one) return "";
    if (is_picture(one)) {
      current = one;
      outline();
      return picture_of(one);
    }
    const caret = caret_at(x, y), block = Element.prototype.closest.call(one, BLOCKS);
    if (!caret || !block || is_picture(block)) return "";
    current = block;
    outline();
    const found = sentences_of(block).find((range) => range.isPointInRange(caret.startContainer, caret.startOffset));
    if (!found) return "";
    choose(found);
    return chosen();
  };
  // what was chosen before a click is not what is clicked on; whoever drags with Alt held means the letters
  EventTarget.prototype.addEventListener.call(window, "mousedown", (event) => {
    if (!event.isTrusted) return;
    pressed = [event.clientX, event.clientY];
    is_exact = is_cursor = false;
  }, true);
  EventTarget.prototype.addEventListener.call(window, "mouseup", (event) => {
    if (!event.isTrusted) return;
    is_dragged = Math.hypot(event.clientX - pressed[0], event.clientY - pressed[1]) > FAR;
    is_exact = event.altKey;
  }, true);
  // in the marking mode a click marks and follows no link
  EventTarget.prototype.addEventListener.call(window, "click", (event) => {
    if (is_on && event.isTrusted) {
      Event.prototype.preventDefault.call(event);
      Event.prototype.stopImmediatePropagation.call(event);
    }
  }, true);
  const told = {
    turn: (on) => { is_on = on; is_cursor = false; current = on ? current : null; outline(); },
    block: (by) => { is_cursor = false; move_block(by); },
    sentence: (by) => { is_cursor = false; move_sentence(by); },
    cursor: move_cursor, clicked, chosen,
    picture_at: (x, y) => { const one = at_point.call(document, x, y); return one && is_picture(one) ? picture_of(one) : ""; },
    done: () => { if (is_cursor || !current) selection().collapseToEnd(); },
  };
  Object.defineProperty(window, "magpieMarking", { value: Object.freeze(told) });
})();
