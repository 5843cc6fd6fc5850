// Marks in the page: shows those that there are, and takes new ones in the marking mode. What is pointed at and how marks are found
// again is told by marking.js and shown.js, which are the window's own. Nothing of the page is changed.
(() => {
  "use strict";
  if (Object.prototype.hasOwnProperty.call(window, "magpieMarks")) return;
  const api = globalThis.browser ?? globalThis.chrome;
  const tell = (message) => api.runtime.sendMessage(message).catch(() => null);
  // style sheets of ours are put into the page by the background
  Object.defineProperty(window, "magpiePut", { value: (name, css) => tell({ what: "style", name, css }) });
  const COLOURS = { petrol: "#0A5C6B", brass: "#875C00", alarm: "#A3261B", moss: "#3F6B21", slate: "#515B66" };
  const LINES = { double: "double 3px", wavy: "wavy 2px", dotted: "dotted 3px", dashed: "dashed 2px", solid: "solid 2px" };
  const look = ([, colour, pattern]) => {
    const ink = COLOURS[colour] ?? COLOURS.slate;
    return pattern === "wash" ? `background-color: ${ink}44; color: inherit;` : `text-decoration: underline ${LINES[pattern] ?? "dashed 2px"} ${ink};`;
  };
  const outline = ([, colour, pattern]) =>
    `outline: 3px ${["double", "dotted", "dashed"].includes(pattern) ? pattern : "solid"} ${COLOURS[colour] ?? COLOURS.slate}; outline-offset: 2px;`;
  let kinds = [["evidence", "petrol", "wash"]], marks = [], kind = 0, is_on = false;

  const show = () => window.magpieShown(
    marks.map((mark) => ({ prefix: "", suffix: "", picture: "", ...mark, look: Math.max(0, kinds.findIndex((one) => one[0] === mark.kind)) })),
    kinds.map(look), kinds.map(outline),
  );
  const take_over = (told) => {
    if (!told) return 0;
    kinds = told.kinds?.length ? told.kinds : kinds;
    marks = told.marks ?? marks;
    return show();
  };
  const put = async (text) => {
    if (!text) return;
    const mark = { ...JSON.parse(text), kind: kinds[kind][0] };
    window.magpieMarking.done();
    take_over(await tell({ what: "marked", put: [mark] }));
  };
  const turn = (on) => {
    is_on = on;
    window.magpieMarking.turn(on);
    tell({ what: "mode", on, kind: kinds[kind][0] });
  };
  const ARROWS = { ArrowDown: ["block", 1], ArrowUp: ["block", -1], ArrowRight: ["sentence", 1], ArrowLeft: ["sentence", -1] };
  const typed = (event) => {
    const number = Number(event.key);
    if (event.key === "Escape") turn(false);
    else if (number >= 1 && number <= kinds.length) {
      kind = number - 1;
      put(window.magpieMarking.chosen());
      tell({ what: "mode", on: true, kind: kinds[kind][0] });
    } else if (event.key === "Enter") put(window.magpieMarking.chosen());
    else if (event.key === "Delete" && marks.length) tell({ what: "marked", remove: [marks[marks.length - 1]] }).then(take_over);
    else if (ARROWS[event.key]) window.magpieMarking[ARROWS[event.key][0]](ARROWS[event.key][1]);
    else return false;
    return true;
  };
  EventTarget.prototype.addEventListener.call(window, "keydown", (event) => {
    if (!is_on || !event.isTrusted || event.ctrlKey || event.altKey || event.metaKey || !typed(event)) return;
    Event.prototype.preventDefault.call(event);
    Event.prototype.stopImmediatePropagation.call(event);
  }, true);
  EventTarget.prototype.addEventListener.call(window, "mouseup", (event) => {
    if (is_on && event.isTrusted && event.button === 0) {
      setTimeout(() => put(window.magpieMarking.clicked(event.clientX, event.clientY)), 0);
    }
  }, true);
  Object.defineProperty(window, "magpieMarks", { value: Object.freeze({
    // what is chosen is marked; where nothing is, the marking mode begins or ends
    async mark() {
      take_over(await tell({ what: "marksFor" }));
      const text = window.magpieMarking.chosen();
      if (text && !is_on) await put(text);
      else turn(!is_on);
      return is_on;
    },
    turn, take_over, count: () => marks.length,
  }) });
  tell({ what: "marksFor" }).then(take_over);
})();
