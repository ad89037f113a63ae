// The log of takes and the dial-in: one key logs how a try came out; a try that waits for a connection is shown.
import { queue, send } from "./sending.js";
document.addEventListener("alpine:init", () => {
  // What both pages show of the tries that wait in the browser.
  const list = {
    waiting: [],
    unsent: 0,
    list() {
      const names = Object.fromEntries([...document.querySelectorAll("[data-outcome]")].map((each) => [each.dataset.outcome, each.textContent]));
      this.waiting = queue.of(this.scene).map((take) => ({
        ...take,
        name: names[take.outcome] || take.outcome,
        time: this.onTheClock(new Date(take.at)),
      }));
      this.unsent = this.waiting.filter((take) => !take.refused).length;
    },
    // The clock of the shoot, as in the log: a try does not change its hour when it is logged.
    onTheClock(at) {
      const parts = { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit", second: "2-digit" };
      return at.toLocaleString("en-GB", { ...parts, timeZone: this.$root.dataset.clock || "UTC" });
    },
    follow() {
      this.scene = this.$root.dataset.scene;
      this.url = this.$root.dataset.url;
      this.list();
      document.addEventListener("rapzel:waiting", () => this.list());
    },
    forget() {
      queue.forget(this.scene, { key: this.$el.dataset.take });
    },
  };

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
    words() {
      return [...this.$root.querySelectorAll("[data-draft]")];
    },
    draft(input) {
      return `rapzel:take:${this.scene}:${input.name}`;
    },
    log() {
      const words = Object.fromEntries(this.words().map((input) => [input.name, input.value]));
      queue.add(this.scene, this.url, { outcome: this.$el.dataset.outcome, ...words });
      send();
      for (const input of this.words()) {
        input.value = "";
        localStorage.removeItem(this.draft(input));
      }
      this.leave();
    },
    leave() {
      if (this.words().includes(document.activeElement)) document.activeElement.blur();
    },
  }));

  // A try of a dial-in is kept while its answer is awaited, with what the knob was set to: the knob may move meanwhile.
  const WORDS = ["outcome", "off", "note", "shot", "dial_in", "tried"];
  Alpine.data("judged", () => ({
    ...list,
    init() {
      this.follow();
      this.$root.addEventListener("htmx:configRequest", (event) => this.isTry(event) && this.begin(event.detail.parameters));
      this.$root.addEventListener("htmx:afterRequest", (event) => this.isTry(event) && this.end(event.detail.xhr.status));
      document.addEventListener("rapzel:logged", (event) => {
        if (event.detail.url === this.url) htmx.swap("#dial", event.detail.html, { swapStyle: "innerHTML" });
      });
    },
    isTry(event) {
      return event.detail.elt.id === "dial-form";
    },
    begin(sent) {
      const words = Object.fromEntries(WORDS.map((name) => [name, sent[name]]));
      this.sending = queue.begin(this.scene, this.url, words);
      sent.key = this.sending.key;
      sent.at = this.sending.at;
    },
    async end(status) {
      const picture = document.getElementById("dial-picture");
      const file = picture && picture.files[0];
      if (await queue.end(this.scene, this.sending, status, file)) return;
      for (const id of ["dial-off", "dial-note", "dial-picture"]) document.getElementById(id).value = "";
    },
  }));
});
