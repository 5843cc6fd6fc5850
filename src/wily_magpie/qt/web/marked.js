// What is chosen in the page, with the letters around it and its place: told to the program when a mark is asked for.
(() => {
  const chosen = window.getSelection();
  if (!chosen || chosen.isCollapsed || !chosen.rangeCount) return "";
  const range = chosen.getRangeAt(0);
  const before = document.createRange();
  before.selectNodeContents(document.body);
  before.setEnd(range.startContainer, range.startOffset);
  const behind = document.createRange();
  behind.selectNodeContents(document.body);
  behind.setStart(range.endContainer, range.endOffset);
  const text = before.toString();
  return JSON.stringify({
    exact: chosen.toString().slice(0, 20000), prefix: text.slice(-32), suffix: behind.toString().slice(0, 32), at: text.length,
  });
})()
