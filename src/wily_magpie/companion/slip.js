// The slip in the browser: shows what the program has filled, and tells it what is changed. All of it is put in as text, never as HTML.
"use strict";
const api = globalThis.browser ?? globalThis.chrome;
const $ = (id) => document.getElementById(id);
const AFTER_TYPING_MS = 400, GOES_MS = 6000;
let tab = 0, slip = null, hand = null, wish = {}, timer = 0, filling = Promise.resolve(), is_unfolded = false, is_touched = false;

// an open slip keeps the program awake
api.runtime.connect({ name: "slip" });

async function ask_worker(message) {
  const { result, error } = await api.runtime.sendMessage(message);
  if (!error) return result;
  const failed = new Error(error.message);
  failed.slug = error.slug;
  throw failed;
}

const ask = (message) => ask_worker({ what: "ask", message });
const made = (tag, properties = {}, ...inside) => {
  const one = Object.assign(document.createElement(tag), properties);
  one.append(...inside);
  return one;
};

async function begin(again = null) {
  state("Reading the page …");
  try {
    const begun = await ask_worker({ what: "begin", again });
    tab = begun.tab;
    if (begun.kept) return show_kept(begun.kept);
    if (begun.failed) return fail(begun.failed);
    [hand, wish] = [begun.slip.hand, begun.wish];
    show(begun.slip);
    state(begun.slip.is_draft ? "This slip was begun before and is as you left it." : "");
  } catch (error) {
    fail(error);
  }
  return null;
}

function state(text) {
  $("state").textContent = text;
  $("state").hidden = !text;
}

function fail(error) {
  state("");
  if (slip) {
    $("problem").textContent = error.message;
    $("problem").hidden = false;
    return;
  }
  const help = $("help");
  help.replaceChildren(made("p", { className: "problem", textContent: error.message }));
  if (error.slug === "not-set-up") {
    help.append(
      made("p", {}, "Wily Magpie has to be on this computer, and this browser has to be told of it. In a terminal: "),
      made("p", {}, made("code", { textContent: "wily-magpie companion install" })),
      made("p", { textContent: "Then press the button again; the browser need not be started anew." }),
    );
  } else if (error.slug === "does-not-start") {
    help.append(
      made("p", {}, "See what is wrong with it: "), made("p", {}, made("code", { textContent: "wily-magpie companion status" })),
    );
  }
  const again = made("button", { textContent: "Try again" });
  again.onclick = () => { help.hidden = true; begin(wish); };
  help.append(again);
  help.hidden = false;
}

// ---- what is shown

function show(told) {
  slip = told;
  const typing = document.activeElement, key = typing?.dataset?.key ?? typing?.id ?? "";
  const is_busy = (one) => one === document.activeElement;
  if (!is_busy($("title"))) $("title").value = told.fields.find((one) => one.key === "title")?.text ?? "";
  $("title").rows = $("title").value.length > 46 ? 2 : 1;
  fill_choice($("place"), told.places, told.place);
  fill_choice($("template"), told.templates.map((one) => [one, one]), told.template);
  $("why").textContent = [
    told.reason ? `Chosen ${told.reason === "chosen by you" ? "by you" : `since ${told.reason}`}.` : "",
    told.library ? `Library: ${told.library}.` : "",
  ].filter(Boolean).join(" ");
  const said = [
    ...(told.known ? [`Kept already${told.known.when ? ` on ${told.known.when}` : ""}: “${told.known.title}”.`] : []),
    ...told.elsewhere.map((one) => `Kept also in ${one}.`), ...told.told,
  ];
  $("told").textContent = said.join("\n");
  $("told").hidden = !said.length;
  show_fields(told, key);
  show_marks(told);
  const { words, left, begins } = told.body;
  $("text-head").textContent = `Text: ${words.toLocaleString()} words${left ? `, ${left} blocks left out` : ""}`;
  $("text").textContent = begins;
  $("own-name").textContent = told.own ? told.fields.find((one) => one.key === told.own)?.label ?? "In your own words" : "In your own words";
  if (told.own && !is_busy($("words"))) $("words").value = told.fields.find((one) => one.key === told.own)?.text ?? "";
  $("keep").textContent = told.known ? "Add to it" : "Keep";
  $("keep-next").textContent = told.known ? "Update it" : "Keep and next";
  $("second").hidden = !told.known;
  $("later").hidden = Boolean(told.known);
  for (const id of ["slip", "foot"]) $(id).hidden = false;
}

function fill_choice(select, options, chosen) {
  select.replaceChildren(...options.map(([value, text]) => made("option", { value, textContent: text, selected: value === chosen })));
  select.value = chosen;
}

function show_fields(told, focused) {
  const lines = told.fields.filter((one) => one.key !== "title" && one.key !== told.own);
  const folded = lines.filter((one) => !one.is_main && !one.proposal.length && !(one.key in hand.values));
  const shown = is_unfolded ? lines : lines.filter((one) => !folded.includes(one));
  const box = $("fields");
  const there = [...box.querySelectorAll("[data-key]")].map((one) => one.dataset.key).join();
  if (there === shown.map((one) => one.key).join()) {
    for (const line of shown) renew(box, line);
  } else {
    box.replaceChildren(...shown.map(field));
    if (focused) box.querySelector(`[data-key="${CSS.escape(focused)}"]`)?.focus();
  }
  const filled = folded.filter((one) => one.text), names = [...filled, ...folded.filter((one) => !one.text)].map((one) => one.label);
  $("more").hidden = is_unfolded || !folded.length;
  $("more").textContent = `${filled.length} more filled, ${folded.length - filled.length} blank: ${names.slice(0, 4).join(", ")}${names.length > 4 ? ", …" : ""}`;
}

// a line that is being typed in stays as it is
function renew(box, line) {
  const editor = box.querySelector(`[data-key="${CSS.escape(line.key)}"]`), row = editor.closest(".field");
  if (editor !== document.activeElement) editor.value = line.text;
  row.querySelector(".origin").textContent = line.letters;
  row.querySelector(".origin").title = line.origin;
  row.querySelector(".below").replaceChildren(...below(line));
}

// why a value could not be had, or what is proposed from what was filed before
function below(line) {
  if (line.problem || !line.proposal.length || line.text || line.key in hand.values) return [line.problem];
  const [value, reason] = line.proposal, take = made("button", { className: "quiet", textContent: value, title: "Ctrl+Space takes it" });
  take.onclick = () => take_proposal(line);
  return [take, ` ${reason}`];
}

const take_proposal = (line) => change(() => { hand.values[line.key] = line.proposal; }, true);

function field(line) {
  const editor = line.is_long ? made("textarea", { value: line.text, rows: 2 })
    : line.options.length && !line.is_many ? choice(line) : made("input", { value: line.text });
  editor.dataset.key = line.key;
  editor.disabled = line.is_cut;
  editor.setAttribute("aria-label", line.label);
  const offered = [...new Set([...line.others.map((one) => one[0]), ...line.names])];
  const row = made("div", { className: "field" },
    made("span", { className: line.is_asked ? "name asked" : "name", textContent: line.label }), editor,
    made("span", { className: "origin", textContent: line.letters, title: line.origin }),
    made("span", { className: line.problem ? "below problem" : "below" }, ...below(line)));
  if (offered.length && editor.tagName === "INPUT") {
    const list = made("datalist", { id: `names-${line.key}` }, ...offered.map((value) => made("option", { value })));
    editor.setAttribute("list", list.id);
    row.append(list);
  }
  editor.oninput = () => type(line.key, editor.value);
  return row;
}

function choice(line) {
  const options = ["", ...new Set([...line.options, ...(line.text ? [line.text] : [])])];
  const select = made("select", {}, ...options.map((value) => made("option", { value, textContent: value || "—" })));
  select.value = line.text;
  return select;
}

function show_marks(told) {
  $("mark-count").textContent = told.marks.length ? `Marks: ${told.marks.length}` : "Marks";
  if ($("marks").contains(document.activeElement) && document.activeElement.tagName === "INPUT") return;
  $("marks").replaceChildren(...told.marks.map((mark) => {
    const kind = made("select", {}, ...told.kinds.map(([name]) => made("option", { value: name, textContent: name })));
    kind.value = mark.kind;
    kind.setAttribute("aria-label", "Kind of mark");
    const comment = made("input", { value: mark.comment ?? "", placeholder: "comment" });
    comment.setAttribute("aria-label", "Comment");
    const gone = made("button", { textContent: "Remove", className: "quiet" });
    kind.onchange = () => put_mark({ ...mark, kind: kind.value });
    comment.oninput = () => put_mark({ ...mark, kind: kind.value, comment: comment.value });
    gone.onclick = () => remove_mark(mark);
    const words = mark.picture ? `A picture${mark.exact ? `: ${mark.exact}` : ""}` : `“${mark.exact}”`;
    return made("li", {}, made("span", { className: "words", textContent: words }),
      made("div", { className: "row" }, kind, comment, gone));
  }));
  show_always(told);
}

async function show_always(told) {
  const origin = origin_of(told.address);
  $("always").hidden = !told.marks.length || !origin || (await api.permissions.contains({ origins: [origin] }));
}

const origin_of = (address) => {
  try { return `${new URL(address).origin}/*`; } catch { return ""; }
};

// ---- what the person does

const same = (one, other) => ["exact", "prefix", "suffix", "picture"].every((part) => (one[part] ?? "") === (other[part] ?? ""));

function change(act, soon = false) {
  is_touched = true;
  act();
  $("problem").hidden = true;
  clearTimeout(timer);
  if (soon) refill();
  else timer = setTimeout(refill, AFTER_TYPING_MS);
}

const type = (key, text) => change(() => { hand.values[key] = [text, "typed"]; });
const put_mark = (mark) => change(() => { hand.marks = [...hand.marks.filter((one) => !same(one, mark)), mark]; });
const remove_mark = (mark) => change(() => {
  hand.marks = hand.marks.filter((one) => !same(one, mark));
  hand.removed = [...hand.removed.filter((one) => !same(one, mark)), mark];
}, true);

// what was done is told one after another, and is a draft from then on
function refill() {
  clearTimeout(timer);
  timer = 0;
  filling = filling.then(async () => {
    const told = await with_page((capture) => ask({ what: "fill", capture, hand, words: own_text() }));
    show({ ...told, capture: slip.capture });
  }).catch(fail);
  return filling;
}

const own_text = () => (slip.own ? "" : $("words").value);

// a program that was started anew has to be handed the page once more
async function with_page(act) {
  try {
    return await act(slip.capture);
  } catch (error) {
    if (error.slug !== "capture-gone") throw error;
    const fresh = (await ask_worker({ what: "begin", again: wish })).slip, was_known = Boolean(slip.known);
    slip.capture = fresh.capture;
    if (fresh.known && !was_known) {
      show({ ...fresh, hand });
      throw new Error("This page is kept by now. Choose below what is to become of it.");
    }
    return act(slip.capture);
  }
}

async function keep(as, after = () => null) {
  if (timer) await refill();
  await filling;
  busy(true);
  try {
    const answer = await with_page((capture) => ask_worker({
      what: "keep", tab, message: { capture, hand, words: own_text(), as },
    }));
    is_touched = false;
    show_kept({ ...answer.kept, library: answer.library });
    await after();
  } catch (error) {
    fail(error);
  }
  busy(false);
}

function busy(is_busy) {
  for (const button of document.querySelectorAll("footer button")) button.disabled = is_busy;
}

function show_kept(kept) {
  for (const id of ["slip", "foot"]) $(id).hidden = true;
  state("");
  const where = `${kept.place_name}${kept.library ? ` (${kept.library})` : ""}`;
  const words = { added: "is added to", updated: "is updated in", known: "is already in" };
  const said = kept.is_known ? `“${kept.title}” is kept already, in ${where}.` : `“${kept.title}” ${words[kept.status] ?? "is kept in"} ${where}.`;
  const buttons = made("div", { className: "buttons" });
  const add = (text, act) => {
    const button = made("button", { textContent: text });
    button.onclick = act;
    buttons.append(button);
  };
  if (kept.step && kept.status !== "known") add("Undo", () => undo(kept));
  add("Open in Magpie", () => leave(ask({ what: "entry", place: kept.place, entry: kept.entry })));
  if (kept.is_known) add("Show its slip", () => { $("help").hidden = true; begin(wish); });
  $("help").replaceChildren(made("div", { className: "kept" }, made("p", { textContent: said }), buttons));
  $("help").hidden = false;
  setTimeout(() => { if (!document.body.matches(":hover")) window.close(); }, GOES_MS);
}

async function undo(kept) {
  try {
    await ask({ what: "undo", step: kept.step });
    $("help").replaceChildren(made("p", { textContent: `Taken back: “${kept.title}” is not kept.` }));
  } catch (error) {
    $("help").append(made("p", { className: "problem", textContent: error.message }));
  }
}

async function leave(asked) {
  try {
    await asked;
    window.close();
  } catch (error) {
    fail(error);
  }
}

$("title").oninput = () => type("title", $("title").value);
$("words").oninput = () => (slip.own ? type(slip.own, $("words").value) : change(() => null));
$("place").onchange = () => change(() => { hand.place = $("place").value; }, true);
$("template").onchange = () => change(() => { hand.template = $("template").value; }, true);
$("more").onclick = () => { is_unfolded = true; show(slip); };
$("keep").onclick = () => keep(slip.known ? "add" : "new");
$("keep-next").onclick = () => (slip.known ? keep("update") : keep("new", () => ask_worker({ what: "next", tab })));
$("second").onclick = () => keep("new");
$("open").onclick = async () => {
  if (timer) await refill();
  await filling;
  leave(ask({ what: "open", address: slip.address }));
};
$("later").onclick = async () => {
  try {
    const answer = await ask({ what: "later", address: slip.address, title: $("title").value, place: $("place").value });
    show_kept({ ...answer.kept, library: answer.library });
  } catch (error) {
    fail(error);
  }
};
$("mark").onclick = () => leave((is_touched ? refill() : Promise.resolve()).then(() => ask_worker({ what: "mark", tab })));
// the request has to be the first thing that a click does
$("always").onclick = async () => {
  await api.permissions.request({ origins: [origin_of(slip.address)] });
  show_always(slip);
};
document.addEventListener("keydown", (event) => {
  if (event.key === " " && event.ctrlKey && slip) {
    event.preventDefault();
    const open = slip.fields.filter((one) => one.proposal.length && !one.text && !(one.key in hand.values));
    const focused = open.filter((one) => one.key === document.activeElement?.dataset?.key);
    for (const line of focused.length ? focused : open) take_proposal(line);
  }
  if (event.key === "Enter" && (event.ctrlKey || event.metaKey) && slip && !$("slip").hidden) {
    event.preventDefault();
    $(event.shiftKey ? "keep-next" : "keep").click();
  }
});
begin();
