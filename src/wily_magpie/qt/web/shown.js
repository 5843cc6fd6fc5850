// Shows marked passages in the page (CSS Custom Highlight API): nothing of the page itself is changed, so a kept copy is as it was.
// marks: [{exact, prefix, suffix, picture, look}], looks: declarations of CSS, outlines: the same of pictures, which get an outline.
// Gives back how many were found.
((marks, looks, outlines) => {
  // nothing is asked of the document or the window by name: elements with such names hide it
  const property = (name) => Object.getOwnPropertyDescriptor(Document.prototype, name);
  const body = property("body").get.call(document);
  if (typeof Highlight !== "function" || !CSS.highlights || !body) return 0;
  const most = 2000000, bare = (text) => text.replace(/\s+/gu, "");
  const nodes = [], node_of = [], offset_of = [], parts = [];
  const walker = Document.prototype.createTreeWalker.call(document, body, NodeFilter.SHOW_TEXT);
  for (let node = walker.nextNode(); node && node_of.length < most; node = walker.nextNode()) {
    if (/^(script|style|noscript|template)$/i.test(node.parentNode.nodeName)) continue;
    nodes.push(node);
    for (let at = 0; at < node.data.length; at++) {
      if (/\s/u.test(node.data[at])) continue;
      node_of.push(nodes.length - 1);
      offset_of.push(at);
    }
    parts.push(bare(node.data));
  }
  const text = parts.join("");
  const alike = (one, other) => {
    let count = 0;
    while (count < Math.min(one.length, other.length) && one[count] === other[count]) count++;
    return count;
  };
  const turned = (word) => [...word].reverse().join("");
  const place_of = (mark) => {
    const exact = bare(mark.exact), prefix = turned(bare(mark.prefix)), suffix = bare(mark.suffix);
    let best = -1, most_alike = -1, places = 0;
    for (let at = exact ? text.indexOf(exact) : -1; at >= 0 && places < 200; at = text.indexOf(exact, at + 1)) {
      places++;
      const end = at + exact.length;
      const same = alike(turned(text.slice(Math.max(0, at - 32), at)), prefix) + alike(text.slice(end, end + 32), suffix);
      if (same > most_alike) [best, most_alike] = [at, same];
    }
    return [best, best + exact.length - 1];
  };
  const shown = looks.map(() => new Highlight());
  // an element by its place alone, since nothing of it may be changed
  const path_of = (one) => {
    const parts = [];
    for (let at = one; at && at.parentElement; at = at.parentElement) {
      parts.unshift(`:nth-child(${[...at.parentElement.children].indexOf(at) + 1})`);
    }
    return [":root", ...parts].join(" > ");
  };
  const pictures = marks.some((mark) => mark.picture)
    ? [...Element.prototype.querySelectorAll.call(body, "img")] : [];
  const framed = [];
  let count = 0;
  for (const mark of marks) {
    if (mark.picture) {
      const found = pictures.filter((one) => one.src === mark.picture || one.currentSrc === mark.picture);
      for (const one of found) framed.push(`${path_of(one)} { ${outlines[mark.look]} }`);
      count += found.length ? 1 : 0;
      continue;
    }
    const [first, last] = place_of(mark);
    if (first < 0) continue;
    const range = Document.prototype.createRange.call(document);
    range.setStart(nodes[node_of[first]], offset_of[first]);
    range.setEnd(nodes[node_of[last]], offset_of[last] + 1);
    shown[mark.look].add(range);
    count++;
  }
  for (let at = 0; at < 20; at++) CSS.highlights.delete(`wily-magpie-${at}`);  // one family cannot list them from outside the page
  shown.forEach((one, at) => CSS.highlights.set(`wily-magpie-${at}`, one));
  const rules = [...looks.map((look, at) => `::highlight(wily-magpie-${at}) { ${look} }`), ...framed].join("\n");
  if (Object.prototype.hasOwnProperty.call(window, "magpiePut")) {  // where style sheets are put in from outside
    window.magpiePut("marks", rules);
    return count;
  }
  if (!Object.prototype.hasOwnProperty.call(window, "magpieLooks")) {
    Object.defineProperty(window, "magpieLooks", { value: new CSSStyleSheet() });
    const sheets = Object.getOwnPropertyDescriptor(Document.prototype, "adoptedStyleSheets");
    sheets.set.call(document, [...sheets.get.call(document), window.magpieLooks]);
  }
  window.magpieLooks.replaceSync(rules);
  return count;
})
