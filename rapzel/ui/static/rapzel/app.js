// @ts-check
// What every page does in the browser: themes, keys, notices, files dropped, drafts kept.
import { askOnce } from "./asked.js";
import { all, elementOf } from "./dom.js";
import { openGoTo } from "./goto.js";
import { shortcutOf } from "./keys.js";
import { post, token } from "./post.js";
import "./words.js";

const AGAIN_MS = 3000;

document.addEventListener("htmx:configRequest", (event) => {
  if (token()) event.detail.headers["X-CSRFToken"] = token();
});

askOnce(document);

// Logged out meanwhile, here or elsewhere: said in place; what is typed stays, and goes on after logging in again.
const door = () => document.getElementById("logged-out");
const shut = () => {
  const notice = door();
  if (notice) notice.hidden = false;
};
document.addEventListener("htmx:responseError", (event) => {
  if (event.detail.xhr.status === 401) shut();
});
document.addEventListener("rapzel:door", shut);
const tryTheDoor = async () => {
  const notice = door();
  if (!notice || notice.hidden || document.visibilityState !== "visible") return;
  const answer = await fetch(notice.dataset.check || "", { headers: { "HX-Request": "true" } }).catch(() => null);
  if (!answer || !answer.ok) return;
  notice.hidden = true;
  document.dispatchEvent(new CustomEvent("rapzel:back"));
};
document.addEventListener("visibilitychange", tryTheDoor);
window.addEventListener("focus", tryTheDoor);

// The zone of this browser's clock: said at the door, and offered where the account has none.
const browsersZone = Intl.DateTimeFormat().resolvedOptions().timeZone || "";
document.addEventListener("DOMContentLoaded", () => {
  /** @type {HTMLInputElement[]} */
  const inputs = all("[data-browsers-zone]");
  for (const input of inputs) input.value = browsersZone;
  /** @type {HTMLSelectElement | null} */
  const select = document.querySelector("select[data-zone-to-choose]");
  if (select && !select.value && browsersZone) select.value = browsersZone;
});

// A page that the browser kept while one was elsewhere may be old; the workbench renews its answer by itself.
window.addEventListener("pageshow", (event) => {
  if (event.persisted && !document.querySelector(".workbench")) window.location.reload();
});
const typing = (/** @type {Element} */ element) => element.matches("input:not([type=checkbox]), select, textarea");

// A key does what the element that carries it does; `?` lists them all.
document.addEventListener("keydown", (event) => {
  const at = elementOf(event);
  if (event.key === "Escape" && typing(at) && at.dataset.key) at.blur();
  const where = { isTyping: typing(at), isInDialog: Boolean(document.querySelector("dialog[open]")) };
  const key = shortcutOf(event, where);
  if (!key) return;
  const says = `[data-key="${CSS.escape(key)}"][data-key-says]`;
  // What the page itself does with a key comes before where the bars lead.
  /** @type {HTMLElement | null} */
  const target = document.querySelector(`main ${says}`) || document.querySelector(says);
  if (!target) return;
  event.preventDefault();
  if (typing(target)) target.focus();
  else target.click();
});

// Fields that are saved one by one: what could not be saved is said beside the field, kept, and sent again.
/** @type {Set<Element>} */
const unsaved = new Set();
const rowOf = (/** @type {Event} */ event) => elementOf(event).closest("[data-saves]");
const sayIn = (/** @type {Element} */ row, /** @type {string} */ says) => {
  const slot = row.querySelector("[data-unsaved]");
  if (slot) slot.textContent = says;
};
const isAtTheDoor = (/** @type {number} */ status) => status === 401 || status === 403;
// What is refused says so itself, beside its field; all else is tried again.
const failed = (/** @type {HtmxEvent} */ event) => {
  const row = rowOf(event);
  const status = event.detail.xhr ? event.detail.xhr.status : 0;
  const isRefused = status >= 400 && status < 500 && !isAtTheDoor(status);
  if (!row || isRefused) return;
  unsaved.add(row);
  sayIn(row, isAtTheDoor(status) ? "Not saved yet: log in again." : "Not saved yet: no answer. It is tried again.");
};
document.addEventListener("htmx:sendError", failed);
document.addEventListener("htmx:timeout", failed);
document.addEventListener("htmx:responseError", failed);
document.addEventListener("htmx:afterOnLoad", (event) => {
  const row = rowOf(event);
  const { status } = event.detail.xhr;
  if (!row || status >= 500 || isAtTheDoor(status)) return;
  unsaved.delete(row);
  sayIn(row, "");
});
const saveAgain = () => {
  for (const row of unsaved) {
    if (document.contains(row)) htmx.trigger(row, "change");
    else unsaved.delete(row);
  }
};
setInterval(() => navigator.onLine && door()?.hidden !== false && saveAgain(), AGAIN_MS);
document.addEventListener("rapzel:back", saveAgain);
window.addEventListener("beforeunload", (event) => {
  if (unsaved.size) event.preventDefault();
});

const listKeys = () => {
  const dialog = /** @type {HTMLDialogElement} */ (document.getElementById("keys"));
  const list = /** @type {HTMLElement} */ (dialog.querySelector("dl"));
  list.replaceChildren();
  const told = new Set();
  for (const element of [...all("main [data-key-says]"), ...all(".bars [data-key-says]")]) {
    // A key that the page uses itself does not lead elsewhere.
    if (told.has(element.dataset.key)) continue;
    told.add(element.dataset.key);
    const key = document.createElement("dt");
    const name = document.createElement("kbd");
    name.textContent = element.dataset.key || "";
    key.append(name);
    const says = document.createElement("dd");
    says.textContent = element.dataset.keySays || "";
    list.append(key, says);
  }
  dialog.showModal();
};

document.addEventListener("click", (event) => {
  if (elementOf(event).closest("[data-print]")) window.print();
});

document.addEventListener("alpine:init", () => {
  Alpine.data("bars", () => ({
    open: false, // on a narrow screen: the pages that are folded away
    keys: listKeys,
    fold() {
      this.open = !this.open;
    },
    close() {
      this.open = false;
    },
    goTo() {
      this.open = false;
      openGoTo();
    },
    choose(/** @type {string} */ theme) {
      document.documentElement.dataset.theme = theme;
      post(this.$root.dataset.preferences || "", { theme });
    },
    toggleSet() {
      this.choose(document.documentElement.dataset.theme === "set" ? "dark" : "set");
    },
    async units(/** @type {string} */ imperial) {
      await post(this.$root.dataset.preferences || "", { imperial });
      window.location.reload();
    },
  }));

  // Times stand in UTC until somebody says whose clock they read; the browser knows.
  Alpine.data("zoneOffer", () => ({
    shown: browsersZone !== "" && browsersZone !== "UTC",
    zone: browsersZone.replaceAll("_", " "),
    async use() {
      const answer = await post(this.$root.dataset.preferences || "", { zone: browsersZone });
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
    drop(/** @type {DragEvent} */ event) {
      this.active = false;
      const files = event.dataTransfer?.files;
      if (!files || !files.length) return;
      this.$refs.file.files = files;
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
      /** @type {HTMLInputElement[]} */
      const boxes = all("[data-tick]", this.$root);
      for (const box of boxes) {
        box.checked = localStorage.getItem(this.key(box)) === "1";
      }
    },
    key(/** @type {HTMLElement} */ box) {
      return `rapzel:tick:${this.$root.dataset.scene}:${box.dataset.tick}`;
    },
    tick() {
      localStorage.setItem(this.key(this.$el), this.$el.checked ? "1" : "0");
    },
  }));
});
