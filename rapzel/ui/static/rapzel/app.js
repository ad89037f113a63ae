// What every page does in the browser: themes, keys, notices, files dropped, drafts kept.
"use strict";

(() => {
  // The token of the cookie, not of the page: it is another one after logging in again in another tab.
  const token = () => {
    const found = document.cookie.split("; ").find((each) => each.startsWith("csrftoken="));
    return found ? decodeURIComponent(found.slice("csrftoken=".length)) : "";
  };
  const post = (url, values) =>
    fetch(url, { method: "POST", headers: { "X-CSRFToken": token(), "HX-Request": "true" }, body: new URLSearchParams(values) });
  document.addEventListener("htmx:configRequest", (event) => {
    if (token()) event.detail.headers["X-CSRFToken"] = token();
  });

  // Logged out meanwhile, here or elsewhere: said in place; what is typed stays, and goes on after logging in again.
  const door = () => document.getElementById("logged-out");
  document.addEventListener("htmx:responseError", (event) => {
    if (event.detail.xhr.status === 401 && door()) door().hidden = false;
  });
  const tryTheDoor = async () => {
    if (!door() || door().hidden || document.visibilityState !== "visible") return;
    const answer = await fetch(door().dataset.check, { headers: { "HX-Request": "true" } }).catch(() => null);
    if (!answer || !answer.ok) return;
    door().hidden = true;
    document.dispatchEvent(new CustomEvent("rapzel:back"));
  };
  document.addEventListener("visibilitychange", tryTheDoor);
  window.addEventListener("focus", tryTheDoor);

  // A page that the browser kept while one was elsewhere may be old; the workbench renews its answer by itself.
  window.addEventListener("pageshow", (event) => {
    if (event.persisted && !document.querySelector(".workbench")) window.location.reload();
  });
  const typing = (element) => element.matches("input:not([type=checkbox]), select, textarea");

  // A key does what the element that carries it does; `?` lists them all.
  document.addEventListener("keydown", (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || typing(event.target)) return;
    if (document.querySelector("dialog[open]")) return;
    const target = document.querySelector(`[data-key="${CSS.escape(event.key)}"]`);
    if (!target) return;
    event.preventDefault();
    if (typing(target)) target.focus();
    else target.click();
  });

  const listKeys = () => {
    const dialog = document.getElementById("keys");
    const list = dialog.querySelector("dl");
    list.replaceChildren();
    for (const element of document.querySelectorAll("[data-key]")) {
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

    // The log of takes: an outcome sends the form; words typed are kept until they are stored.
    Alpine.data("takes", () => ({
      init() {
        const scene = this.$root.dataset.scene;
        const drafts = [...this.$root.querySelectorAll("[data-draft]")];
        const key = (input) => `rapzel:take:${scene}:${input.name}`;
        for (const input of drafts) {
          input.value = localStorage.getItem(key(input)) || "";
          input.addEventListener("input", () => localStorage.setItem(key(input), input.value));
        }
        document.addEventListener("rapzel:logged", () => {
          for (const input of drafts) {
            input.value = "";
            localStorage.removeItem(key(input));
          }
          this.say("");
          document.activeElement.blur();
        });
        for (const name of ["htmx:sendError", "htmx:responseError"]) {
          this.$root.addEventListener(name, () => this.say("Not logged: no answer from Rapzel. What you wrote is kept; press the key again."));
        }
      },
      say(text) {
        document.getElementById("take-error").textContent = text;
      },
      log() {
        this.$refs.outcome.value = this.$el.dataset.outcome;
        htmx.trigger("#take-form", "submit");
      },
      leave() {
        document.activeElement.blur();
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
})();
