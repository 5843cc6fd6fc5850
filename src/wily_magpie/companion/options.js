// What the person may say of the companion in this browser.
"use strict";
const api = globalThis.browser ?? globalThis.chrome;
const $ = (id) => document.getElementById(id);
const ALL = ["http://*/*", "https://*/*"];

async function ask_program() {
  $("program").textContent = "Asking …";
  const { result, error } = await api.runtime.sendMessage({ what: "hello" });
  const help = error?.slug === "not-set-up" ? " In a terminal: wily-magpie companion install" : "";
  $("program").textContent = error ? `${error.message}${help}` : `Wily Magpie ${result.version} answers. Pages go to ${result.library ? `the library “${result.library}”` : "your library"}.`;
}

async function show() {
  const { origins } = await api.permissions.getAll();
  const rows = (origins ?? []).map((one) => {
    const gone = document.createElement("button"), row = document.createElement("li");
    Object.assign(gone, { textContent: "Take back", className: "quiet" });
    gone.onclick = () => take_back([one]);
    row.append(`${one.replace("/*", "")} `, gone);
    return row;
  });
  $("sites").replaceChildren(...rows);
  $("nowhere").hidden = !rows.length;
  $("everywhere").hidden = (origins ?? []).includes(ALL[1]);
  $("asks").checked = (await api.storage.local.get({ asks_known: true })).asks_known;
}

async function take_back(origins) {
  await api.permissions.remove({ origins });
  await show();
}

// the request has to be the first thing that a click does
$("everywhere").onclick = async () => {
  await api.permissions.request({ origins: ALL });
  await show();
};
$("nowhere").onclick = async () => take_back((await api.permissions.getAll()).origins);
$("asks").onchange = () => api.storage.local.set({ asks_known: $("asks").checked });
$("try").onclick = ask_program;
show();
ask_program();
