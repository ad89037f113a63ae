// @ts-check
// The workbench in the browser: which groups are open, sliders, width. Its inputs: fields.js; its picture: rehearsal.js.
// Every sum is done by the server; this moves texts and pictures.
import { all, elementOf, inputById } from "../rapzel/dom.js";

const root = () => /** @type {HTMLElement} */ (document.querySelector(".workbench"));

/** Which groups somebody left open, by their keys. */
const remembered = (/** @type {string} */ name, /** @type {Record<string, boolean>} */ fallback) => {
  try {
    return JSON.parse(localStorage.getItem(name) || "null") || fallback;
  } catch {
    return fallback;
  }
};

document.addEventListener("alpine:init", () => {
  Alpine.data("workbench", () => ({
    groups: /** @type {Record<string, boolean>} */ ({}),
    kept: "", // the name under which they are remembered
    margin: "",
    init() {
      const { page, open } = this.$root.dataset;
      this.kept = page ? `rapzel:groups:${page}` : "rapzel:groups";
      this.groups = remembered(this.kept, { [open || "lights"]: true });
      document.addEventListener("rapzel:show", (event) => this.showInput(event.detail));
      const named = document.getElementById(window.location.hash.slice(1));
      if (named && named.matches("[data-field]")) this.$nextTick(() => this.showInput(named));
    },
    /** Opens every fold about an input and goes to it. */
    showInput(/** @type {HTMLElement} */ input) {
      for (let fold = input.closest("[data-group]"); fold; fold = fold.parentElement?.closest("[data-group]") || null) {
        this.groups[/** @type {HTMLElement} */ (fold).dataset.group || ""] = true;
      }
      localStorage.setItem(this.kept, JSON.stringify(this.groups));
      this.$nextTick(() => {
        input.scrollIntoView({ block: "center" });
        input.focus();
      });
    },
    isOpen(/** @type {string} */ name) {
      return Boolean(this.groups[name]);
    },
    toggle(/** @type {string} */ name) {
      this.groups[name] = !this.groups[name];
      localStorage.setItem(this.kept, JSON.stringify(this.groups));
    },
    isShown(/** @type {string} */ name) {
      return this.margin === name;
    },
    show(/** @type {string} */ name) {
      this.margin = this.margin === name ? "" : name;
    },
    chooseView() {
      for (const tab of all("[data-view]", this.$root)) {
        tab.setAttribute("aria-pressed", String(tab === this.$el));
      }
    },
  }));
});

// --- a slider writes into its input, which is sent as if it had been typed -----------------------------------------

document.addEventListener("input", (event) => {
  const slide = /** @type {HTMLInputElement} */ (elementOf(event));
  const input = inputById(slide.dataset.slides || "");
  if (!input) return;
  input.value = String(Math.round(Number(slide.value) * 100) / 100);
  input.dispatchEvent(new Event("input", { bubbles: true }));
});
document.addEventListener("rapzel:changed", () => {
  /** @type {HTMLInputElement[]} */
  const slides = all("[data-slides]");
  for (const slide of slides) {
    const input = inputById(slide.dataset.slides || "");
    const value = input ? Number.parseFloat(input.value.replace("−", "-")) : NaN;
    if (slide !== document.activeElement && Number.isFinite(value)) slide.value = String(value);
  }
});

// --- a narrow screen gets a ribbon of its own; the server is told by a cookie, and once at once ---------------------

const narrow = window.matchMedia("(max-width: 899px)");
const tellWidth = () => {
  const told = narrow.matches ? "narrow=1" : "narrow=0";
  const known = document.cookie.split("; ").includes(told) || (!narrow.matches && !document.cookie.includes("narrow="));
  if (known) return;
  document.cookie = `${told}; path=/; max-age=31536000; samesite=lax`;
  htmx.ajax("GET", `${root().dataset.answerUrl}?anew=1`, { source: "#inputs", target: "#answer" });
};
document.addEventListener("DOMContentLoaded", tellWidth);
narrow.addEventListener("change", tellWidth);

// --- what comes back after a change ------------------------------------------------------------------------------

document.addEventListener("rapzel:changed", (event) => {
  /** @type {HTMLAnchorElement[]} */
  const links = all("a[data-fingerprint]");
  for (const link of links) {
    link.href = `${link.dataset.fingerprint}?v=${event.detail.rehearsal}`;
  }
});

// --- a page that was left and comes back shows the scene as it is now ----------------------------------------------

const refresh = () => {
  if (!navigator.onLine) return;
  htmx.ajax("GET", root().dataset.answerUrl || "", { source: "#inputs", target: "#answer" });
};
window.addEventListener("pageshow", (event) => event.persisted && refresh());
document.addEventListener("visibilitychange", () => document.visibilityState === "visible" && refresh());
document.addEventListener("rapzel:back", refresh);
