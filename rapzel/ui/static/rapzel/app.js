// What every page does in the browser: themes, keys, notices, files dropped, drafts kept.
import { shortcutOf } from "./keys.js";
import { post, token } from "./post.js";
document.addEventListener("htmx:configRequest", (event) => {
  if (token()) event.detail.headers["X-CSRFToken"] = token();
});

// Logged out meanwhile, here or elsewhere: said in place; what is typed stays, and goes on after logging in again.
const door = () => document.getElementById("logged-out");
const shut = () => door() && (door().hidden = false);
document.addEventListener("htmx:responseError", (event) => event.detail.xhr.status === 401 && shut());
document.addEventListener("rapzel:door", shut);
const tryTheDoor = async () => {
  if (!door() || door().hidden || document.visibilityState !== "visible") return;
  const answer = await fetch(door().dataset.check, { headers: { "HX-Request": "true" } }).catch(() => null);
  if (!answer || !answer.ok) return;
  door().hidden = true;
  document.dispatchEvent(new CustomEvent("rapzel:back"));
};
document.addEventListener("visibilitychange", tryTheDoor);
window.addEventListener("focus", tryTheDoor);

// The zone of this browser's clock: said at the door, and offered where the account has none.
const browsersZone = Intl.DateTimeFormat().resolvedOptions().timeZone || "";
document.addEventListener("DOMContentLoaded", () => {
  for (const input of document.querySelectorAll("[data-browsers-zone]")) input.value = browsersZone;
  const select = document.querySelector("select[data-zone-to-choose]");
  if (select && !select.value && browsersZone) select.value = browsersZone;
});

// A page that the browser kept while one was elsewhere may be old; the workbench renews its answer by itself.
window.addEventListener("pageshow", (event) => {
  if (event.persisted && !document.querySelector(".workbench")) window.location.reload();
});
const typing = (element) => element.matches("input:not([type=checkbox]), select, textarea");

// A key does what the element that carries it does; `?` lists them all.
document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && typing(event.target) && event.target.dataset.key) event.target.blur();
  const where = { isTyping: typing(event.target), isInDialog: Boolean(document.querySelector("dialog[open]")) };
  const key = shortcutOf(event, where);
  const target = key && document.querySelector(`[data-key="${CSS.escape(key)}"][data-key-says]`);
  if (!target) return;
  event.preventDefault();
  if (typing(target)) target.focus();
  else target.click();
});

// Fields that are saved one by one: what could not be saved is said beside the field, kept, and sent again.
const unsaved = new Set();
const notSaved = (row, says) => {
  unsaved.add(row);
  const slot = row.querySelector("[data-unsaved]");
  if (slot) slot.textContent = says;
};
for (const name of ["htmx:sendError", "htmx:timeout", "htmx:responseError"]) {
  document.addEventListener(name, (event) => {
    const row = event.target.closest && event.target.closest("[data-saves]");
    const status = event.detail.xhr ? event.detail.xhr.status : 0;
    if (!row || (status >= 400 && status < 500 && status !== 401 && status !== 403)) return;
    notSaved(row, status === 401 || status === 403 ? "Not saved yet: log in again." : "Not saved yet: no answer. It is tried again.");
  });
}
document.addEventListener("htmx:afterOnLoad", (event) => {
  const row = event.target.closest && event.target.closest("[data-saves]");
  if (!row || event.detail.xhr.status >= 500 || [401, 403].includes(event.detail.xhr.status)) return;
  unsaved.delete(row);
  const slot = row.querySelector("[data-unsaved]");
  if (slot) slot.textContent = "";
});
const saveAgain = () => {
  for (const row of unsaved) {
    if (document.contains(row)) htmx.trigger(row, "change");
    else unsaved.delete(row);
  }
};
setInterval(() => navigator.onLine && (!door() || door().hidden) && saveAgain(), 3000);
document.addEventListener("rapzel:back", saveAgain);
window.addEventListener("beforeunload", (event) => unsaved.size && event.preventDefault());

const listKeys = () => {
  const dialog = document.getElementById("keys");
  const list = dialog.querySelector("dl");
  list.replaceChildren();
  for (const element of document.querySelectorAll("[data-key-says]")) {
    const key = document.createElement("dt");
    const name = document.createElement("kbd");
    name.textContent = element.dataset.key;
    key.append(name);
    const says = document.createElement("dd");
    says.textContent = element.dataset.keySays;
    list.append(key, says);
  }
  dialog.showModal();
};

document.addEventListener("click", (event) => {
  if (event.target.closest("[data-print]")) window.print();
});

document.addEventListener("alpine:init", () => {
  Alpine.data("theme", () => ({
    keys: listKeys,
    choose(theme) {
      document.documentElement.dataset.theme = theme;
      post(this.$root.dataset.preferences, { theme });
    },
    toggleSet() {
      this.choose(document.documentElement.dataset.theme === "set" ? "dark" : "set");
    },
    async units(imperial) {
      await post(this.$root.dataset.preferences, { imperial });
      window.location.reload();
    },
  }));

  // Times stand in UTC until somebody says whose clock they read; the browser knows.
  Alpine.data("zoneOffer", () => ({
    shown: browsersZone !== "" && browsersZone !== "UTC",
    zone: browsersZone.replaceAll("_", " "),
    async use() {
      const answer = await post(this.$root.dataset.preferences, { zone: browsersZone });
      if (answer.ok) window.location.reload();
      else this.shown = false;
    },
    close() {
      this.shown = false;
    },
  }));

  Alpine.data("notice", () => ({
    shown: true,
    close() {
      this.shown = false;
    },
  }));

  // A file chosen or dropped is sent at once.
  Alpine.data("dropzone", () => ({
    active: false,
    over() {
      this.active = true;
    },
    out() {
      this.active = false;
    },
    drop(event) {
      this.active = false;
      if (!event.dataTransfer.files.length) return;
      this.$refs.file.files = event.dataTransfer.files;
      this.send();
    },
    send() {
      this.$refs.form.requestSubmit();
    },
  }));

  // The door: who stands before it sees nothing that was kept for somebody else.
  Alpine.data("door", () => ({
    async init() {
      const known = navigator.serviceWorker && (await navigator.serviceWorker.getRegistration());
      if (known && known.active) known.active.postMessage({ forget: true });
    },
  }));

  // Ticks on the phone's run sheet stay on the phone.
  Alpine.data("checklist", () => ({
    init() {
      for (const box of this.$root.querySelectorAll("[data-tick]")) {
        box.checked = localStorage.getItem(this.key(box)) === "1";
      }
    },
    key(box) {
      return `rapzel:tick:${this.$root.dataset.scene}:${box.dataset.tick}`;
    },
    tick() {
      localStorage.setItem(this.key(this.$el), this.$el.checked ? "1" : "0");
    },
  }));
});
