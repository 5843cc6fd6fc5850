// The background: one family of browsers runs it as a service worker, the other as an event page. It is put to sleep when nothing goes
// on, so it remembers nothing but the port; what has to last is in the browser's store of this session.
"use strict";
const api = globalThis.browser ?? globalThis.chrome;
const HOST = "example.wily_magpie";
const PIECE = 512 * 1024; // characters: one family takes no message over 64 MiB, the other takes far longer for a large one
const IDLE_MS = 60000, BADGE = "#0A5C6B", PROBLEM = "#A3261B";
const NOT_SET_UP = /not found|no such native|forbidden/i;
const MARKS = ["marks.js", "marking.js", "shown.js"];
const MENU = [
  ["page", ["page"], "Keep this page …"], ["words", ["selection"], "Mark these words, and keep …"],
  ["picture", ["image"], "Keep this picture …"], ["link", ["link"], "Keep what this link leads to …"],
];

// ---- the program

let port = null, number = 0, idle = 0, hello = null, slips = 0;
const waiting = new Map();

function kind_of_browser() {
  return navigator.userAgent.includes("Firefox/") ? "Firefox" : navigator.userAgentData?.brands?.some((one) => one.brand === "Google Chrome")
    ? "Chrome" : "Chromium";
}

function host() {
  clearTimeout(idle);
  idle = setTimeout(hang_up, IDLE_MS);
  if (port) return port;
  port = api.runtime.connectNative(HOST);
  port.onMessage.addListener((answer) => {
    waiting.get(answer.id)?.done(answer);
    waiting.delete(answer.id);
  });
  port.onDisconnect.addListener((gone) => {
    const told = (gone.error ?? api.runtime.lastError)?.message ?? "it ended";
    port = null;
    hello = null;
    for (const one of waiting.values()) one.failed(failure(told));
    waiting.clear();
  });
  return port;
}

// a port keeps this background awake, and where no window is open the program behind it too
function hang_up() {
  if (waiting.size || slips) {
    idle = setTimeout(hang_up, IDLE_MS);
    return;
  }
  port?.disconnect();
  port = null;
  hello = null;
}

function failure(told) {
  const is_missing = NOT_SET_UP.test(told);
  const error = new Error(is_missing ? "Wily Magpie is not set up for this browser." : `Wily Magpie does not start: ${told}.`);
  error.slug = is_missing ? "not-set-up" : "does-not-start";
  return error;
}

function send(message) {
  return new Promise((done, failed) => {
    const id = ++number;
    waiting.set(id, { done, failed });
    try {
      host().postMessage({ ...message, id });
    } catch (error) {
      waiting.delete(id);
      failed(failure(String(error.message ?? error)));
    }
  });
}

// who is there is asked once for each connection
function greet() {
  if (!port || !hello) {
    hello = send({ what: "hello", browser: kind_of_browser(), version: api.runtime.getManifest().version }).then(good);
    hello.catch(() => { hello = null; });
  }
  return hello;
}

// a program that has gone meanwhile is started again, once
async function ask(message) {
  let answer = null;
  try {
    await greet();
    answer = await send(message);
  } catch (error) {
    if (error.slug === "not-set-up") throw error;
    await greet();
    answer = await send(message);
  }
  return good(answer);
}

function good(answer) {
  if (answer.ok) return answer;
  const error = new Error(answer.message);
  error.slug = answer.error;
  throw error;
}

// what is larger than a message goes in pieces; a letter of two halves is not cut
async function hand_over(whole) {
  const text = JSON.stringify(whole), of = crypto.randomUUID(), pieces = [];
  for (let at = 0; at < text.length;) {
    let end = Math.min(text.length, at + PIECE);
    if (/[\uD800-\uDBFF]/.test(text[end - 1])) end++;
    pieces.push(text.slice(at, end));
    at = end;
  }
  let answer = null;
  for (const [index, piece] of pieces.entries()) answer = await ask({ what: "piece", of, index, count: pieces.length, text: piece });
  return answer;
}

// ---- a page

const is_web = (address) => /^https?:/.test(address ?? "");

async function take(tab, wish = {}) {
  if (wish.link) return ask({ what: "fetch", address: wish.link, by: tab.url });
  if (!is_web(tab.url)) throw new Error("Only pages of the web can be kept: the browser lets no extension look at this one.");
  const greeting = greet();
  let seen = null;
  try {
    [{ result: seen }] = await api.scripting.executeScript({ target: { tabId: tab.id }, files: ["seen.js"] });
  } catch { /* a viewer of the browser's own, or a page that it guards */ }
  const { wants_screenshot, kinds } = await greeting;
  if (!seen || seen.is_file) return ask({ what: "fetch", address: tab.url, by: tab.url });
  const screenshot = wants_screenshot ? await api.tabs.captureVisibleTab(tab.windowId, { format: "png" }).catch(() => "") : "";
  const marks = await marks_of(tab);
  const fresh = seen.chosen ? [{ ...seen.chosen, kind: kinds[0][0] }] : [];
  if (wish.picture) fresh.push({ exact: wish.said ?? "", kind: kinds[0][0], picture: wish.picture });
  return hand_over({
    kind: "page", address: tab.url, title: seen.title, html: seen.html, screenshot, picture: wish.picture ?? "",
    marks: [...marks, ...fresh],
  });
}

// pictures that the page may read come along as bytes; the others are fetched by the program
async function hand_pictures(tab_id, capture, wants) {
  let pictures = [];
  const wanted = wants.filter(is_web);
  if (wanted.length) {
    try {
      const target = { tabId: tab_id };
      await api.scripting.executeScript({ target, files: ["pictures.js"] });
      const [{ result }] = await api.scripting.executeScript({
        target, args: [wanted], func: (addresses) => globalThis.wilyMagpiePictures(addresses),
      });
      pictures = result ?? [];
    } catch { /* the tab is gone, or guarded */ }
  }
  return hand_over({ kind: "pictures", capture, pictures });
}

async function keep(tab_id, message) {
  const answer = await ask({ ...message, what: "keep" });
  await forget_marks(tab_id);
  await badge(tab_id, "✓", `Kept in ${answer.kept.place_name}`);
  hand_pictures(tab_id, message.capture, answer.wants).catch(() => null);
  return answer;
}

const busy = new Set(); // tabs whose page is being kept at once: a key that is pressed twice keeps it once

async function keep_at_once(tab) {
  if (busy.has(tab.id)) return;
  busy.add(tab.id);
  try {
    await keep_and_tell(tab);
  } finally {
    busy.delete(tab.id);
  }
}

async function keep_and_tell(tab) {
  await badge(tab.id, "…", "Keeping …");
  const slip = await take(tab);
  const told = slip.known
    ? { is_known: true, place_name: name_of(slip, slip.place), title: slip.known.title, place: slip.place, entry: slip.known.entry }
    : { ...(await keep(tab.id, { capture: slip.capture, hand: slip.hand, as: "new" })).kept, library: slip.library };
  await badge(tab.id, "✓", `Kept in ${told.place_name}`);
  await tell_at_once(tab, { kept: told });
}

const name_of = (slip, key) => slip.places.find((one) => one[0] === key)?.[1] ?? key;

// the popup that opens next tells this instead of a slip
async function tell_at_once(tab, told) {
  await api.storage.session.set({ [`told-${tab.id}`]: { ...told, at: Date.now() } });
  await api.action.openPopup({ windowId: tab.windowId }).catch(() => null);
}

async function open_slip(tab, wish) {
  await api.storage.session.set({ [`wish-${tab.id}`]: { ...wish, at: Date.now() } });
  await api.action.openPopup({ windowId: tab.windowId });
}

async function taken_out(key) {
  const there = (await api.storage.session.get(key))[key];
  await api.storage.session.remove(key);
  return there && Date.now() - there.at < 10000 ? there : null;
}

async function badge(tab_id, text, title, colour = BADGE) {
  try {
    await api.action.setBadgeBackgroundColor({ tabId: tab_id, color: colour });
    await api.action.setBadgeText({ tabId: tab_id, text });
    if (title) await api.action.setTitle({ tabId: tab_id, title });
  } catch { /* the tab is gone */ }
}

async function say_failed(tab, error) {
  await badge(tab.id, "!", error.message, PROBLEM);
  await tell_at_once(tab, { failed: { slug: error.slug ?? "", message: error.message } });
}

// ---- marks

// until its page is kept, what is marked waits in the browser's store of this session
async function marks_of(tab) {
  const key = `marks-${tab.id}`, there = (await api.storage.session.get(key))[key];
  return there?.address === tab.url ? there.marks : [];
}

const forget_marks = (tab_id) => api.storage.session.remove(`marks-${tab_id}`);
const same = (one, other) => ["exact", "prefix", "suffix", "picture"].every((part) => (one[part] ?? "") === (other[part] ?? ""));

async function may_ask() {
  return (await api.storage.local.get({ asks_known: true })).asks_known;
}

// the browser's own word counts for the address, never the page's
async function marks_for(tab) {
  if (!(await may_ask())) return { kinds: [], marks: await marks_of(tab) };
  const { known, marks, kinds } = await ask({ what: "known", address: tab.url });
  if (known.length) await badge(tab.id, "✓", `Kept in ${known[0][0]}`);
  return { kinds, marks: known.length ? marks : await marks_of(tab), is_kept: known.length > 0 };
}

async function marked(tab, { put = [], remove = [] }) {
  const { known, kinds } = await ask({ what: "known", address: tab.url });
  if (known.length) return { kinds, ...(await ask({ what: "mark", address: tab.url, put, remove })) };
  const changed = [...put, ...remove];
  const left = (await marks_of(tab)).filter((one) => !changed.some((other) => same(one, other)));
  const marks = [...left, ...put].slice(0, 500);
  await api.storage.session.set({ [`marks-${tab.id}`]: { address: tab.url, marks } });
  return { kinds, marks };
}

async function mark_in_page(tab) {
  const target = { tabId: tab.id };
  await api.scripting.executeScript({ target, files: MARKS });
  const [{ result }] = await api.scripting.executeScript({ target, func: () => window.magpieMarks.mark() });
  return result;
}

const styles = new Map();
async function style(tab, { name, css }) {
  const key = `${tab.id} ${name}`, target = { tabId: tab.id };
  if (styles.has(key)) await api.scripting.removeCSS({ target, css: styles.get(key) }).catch(() => null);
  styles.set(key, css);
  await api.scripting.insertCSS({ target, css });
}

// marks at every visit: on the sites that the person has allowed, and no longer than that; one after another, since two at once
// would each make the same script known
let showing = Promise.resolve();
const show_always = () => (showing = showing.then(show_where_allowed, show_where_allowed));
async function show_where_allowed() {
  const { origins } = await api.permissions.getAll();
  const matches = (origins ?? []).filter((one) => /^(https?|\*):/.test(one));
  const there = await api.scripting.getRegisteredContentScripts({ ids: ["marks"] });
  if (there.length) await api.scripting.unregisterContentScripts({ ids: ["marks"] });
  if (matches.length) {
    await api.scripting.registerContentScripts([
      { id: "marks", matches, js: MARKS, runAt: "document_idle", persistAcrossSessions: true },
    ]);
  }
}

async function next_tab(tab_id) {
  const tabs = await api.tabs.query({ currentWindow: true });
  const at = tabs.findIndex((one) => one.id === tab_id), next = tabs[at + 1];
  if (next) await api.tabs.update(next.id, { active: true });
  return { is_last: !next };
}

// ---- who asks

async function active_tab() {
  return (await api.tabs.query({ active: true, currentWindow: true }))[0];
}

// again: what was wished for then
async function begin(again) {
  const tab = await active_tab();
  const told = again ? null : await taken_out(`told-${tab.id}`);
  if (told) return { tab: tab.id, ...told };
  const wish = again ?? (await taken_out(`wish-${tab.id}`)) ?? {};
  const slip = await take(tab, wish);
  await badge(tab.id, slip.known ? "✓" : "", slip.known ? "This page is kept already" : "Keep this page");
  return { tab: tab.id, slip, wish };
}

const MAY_ASK = ["fill", "later", "undo", "open", "entry", "known"];
const OF_OUR_PAGES = {
  begin: ({ again }) => begin(again),
  ask: ({ message }) => {
    if (!MAY_ASK.includes(message.what)) throw new Error("This is not asked.");
    return ask(message);
  },
  keep: ({ tab, message }) => keep(tab, message),
  next: ({ tab }) => next_tab(tab),
  mark: async ({ tab }) => ({ on: await mark_in_page(await api.tabs.get(tab)) }),
  hello: () => greet(),
};
const OF_PAGES = {
  marksFor: (tab) => marks_for(tab),
  marked: (tab, message) => marked(tab, message),
  style: (tab, message) => style(tab, message),
  mode: (tab, { on, kind }) => badge(tab.id, on ? "M" : "", on ? `Marking: ${kind}` : "Keep this page"),
};

api.runtime.onMessage.addListener((message, sender, reply) => {
  if (sender.id !== api.runtime.id || typeof message?.what !== "string") return false;
  const is_ours = sender.url?.startsWith(api.runtime.getURL(""));
  const acts = is_ours ? OF_OUR_PAGES : OF_PAGES;
  if (!Object.hasOwn(acts, message.what)) return false;
  const act = async () => (is_ours ? acts[message.what](message) : acts[message.what](sender.tab, message));
  act().then(
    (result) => reply(is_ours ? { result } : result),
    (error) => reply(is_ours ? { error: { slug: error.slug ?? "", message: error.message } } : null),
  );
  return true;
});

// an open slip keeps the program, and what was handed over to it
api.runtime.onConnect.addListener((slip) => {
  slips++;
  slip.onDisconnect.addListener(() => { slips--; });
});

api.runtime.onInstalled.addListener(async () => {
  await api.contextMenus.removeAll();
  for (const [id, contexts, title] of MENU) api.contextMenus.create({ id, contexts, title });
  await show_always();
});
// by the browser's word alone: its question closes the slip in one family, which then learns of no answer
api.permissions.onAdded.addListener(show_always);
api.permissions.onRemoved.addListener(show_always);

api.contextMenus.onClicked.addListener((info, tab) => {
  const wish = {
    link: info.menuItemId === "link" ? info.linkUrl : "", picture: info.menuItemId === "picture" && is_web(info.srcUrl) ? info.srcUrl : "",
  };
  open_slip(tab, wish).catch((error) => say_failed(tab, error));
});
api.commands.onCommand.addListener((command, tab) => {
  const act = command === "mark" ? mark_in_page : keep_at_once;
  act(tab).catch((error) => say_failed(tab, error));
});
