// @ts-check
// The log of takes and the dial-in: one key logs how a try came out; a try that waits for a connection is shown.
import { all, inputById } from "../rapzel/dom.js";
import { queue, send } from "./sending.js";

/** @typedef {import("./stores.js").Take & { name: string, time: string }} Shown a try with what the list says of it */

/**
 * A part of components, as Alpine sees it when it is in one.
 * @type {<Part extends object>(part: Part & ThisType<Part & AlpineMagics>) => Part}
 */
const partOf = (part) => part;

document.addEventListener("alpine:init", () => {
  // What both pages show of the tries that wait in the browser.
  const list = partOf({
    scene: "",
    url: "",
    waiting: /** @type {Shown[]} */ ([]),
    unsent: 0,
    where: "", // they are kept
    async list() {
      const names = Object.fromEntries(all("[data-outcome]").map((each) => [each.dataset.outcome, each.textContent]));
      const takes = await queue.of(this.scene);
      this.waiting = takes.map((take) => ({
        ...take,
        name: names[take.outcome] || take.outcome,
        time: this.onTheClock(new Date(take.at)),
      }));
      this.unsent = this.waiting.filter((take) => !take.refused).length;
      const isFleeting = this.waiting.some((take) => take.fleeting);
      this.where = isFleeting ? "this browser has no room, so leave this page open" : "kept in this browser";
    },
    // The clock of the shoot, as in the log: a try does not change its hour when it is logged.
    onTheClock(/** @type {Date} */ at) {
      /** @type {Intl.DateTimeFormatOptions} */
      const parts = { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", second: "2-digit" };
      return at.toLocaleString("en-GB", { ...parts, timeZone: this.$root.dataset.clock || "UTC" });
    },
    follow() {
      this.scene = this.$root.dataset.scene || "";
      this.url = this.$root.dataset.url || "";
      this.list();
      document.addEventListener("rapzel:waiting", () => this.list());
    },
    forget() {
      queue.forget({ key: this.$el.dataset.take || "" });
    },
  });

  Alpine.data("takes", () => ({
    ...list,
    init() {
      this.follow();
      for (const input of this.words()) {
        input.value = input.value || localStorage.getItem(this.draft(input)) || ""; // it may have been typed in already
        input.addEventListener("input", () => localStorage.setItem(this.draft(input), input.value));
      }
      document.addEventListener("rapzel:logged", (event) => {
        if (event.detail.url === this.url) htmx.swap("#log", event.detail.html, { swapStyle: "innerHTML" });
        else htmx.ajax("GET", window.location.href, { target: "#log", select: "#log", swap: "outerHTML" });
      });
    },
    /** @returns {HTMLInputElement[]} */
    words() {
      return all("[data-draft]", this.$root);
    },
    draft(/** @type {HTMLInputElement} */ input) {
      return `rapzel:take:${this.scene}:${input.name}`;
    },
    log() {
      const words = Object.fromEntries(this.words().map((input) => [input.name, input.value]));
      const added = queue.add(this.scene, this.url, { outcome: this.$el.dataset.outcome, ...words });
      added.then(send);
      for (const input of this.words()) {
        input.value = "";
        localStorage.removeItem(this.draft(input));
      }
      this.leave();
    },
    leave() {
      for (const input of this.words()) input.blur(); // nothing where it is not the one that is typed in
    },
  }));

  // A try of a dial-in is kept while its answer is awaited, with what the knob was set to: the knob may move meanwhile.
  const WORDS = ["outcome", "off", "note", "shot", "dial_in", "tried"];
  /** @type {ReturnType<typeof queue.begin> | null} the one whose answer is awaited */
  let begun = null;
  Alpine.data("judged", () => ({
    ...list,
    init() {
      this.follow();
      this.$root.addEventListener("htmx:configRequest", (event) => {
        if (this.isTry(event)) this.begin(event.detail.parameters);
      });
      this.$root.addEventListener("htmx:afterRequest", (event) => {
        if (this.isTry(event)) this.end(event.detail.xhr.status);
      });
      document.addEventListener("rapzel:logged", (event) => {
        if (event.detail.url === this.url) htmx.swap("#dial", event.detail.html, { swapStyle: "innerHTML" });
      });
    },
    isTry(/** @type {HtmxEvent} */ event) {
      return event.detail.elt.id === "dial-form";
    },
    begin(/** @type {Record<string, any>} */ sent) {
      const words = Object.fromEntries(WORDS.map((name) => [name, sent[name]]));
      begun = queue.begin(this.scene, this.url, words);
      sent.key = begun.key;
      sent.at = begun.at;
    },
    async end(/** @type {number} */ status) {
      const file = inputById("dial-picture")?.files?.[0] || null;
      if (!begun || (await queue.end(begun, status, file))) return;
      for (const input of ["dial-off", "dial-note", "dial-picture"].map(inputById)) {
        if (input) input.value = "";
      }
    },
  }));
});
