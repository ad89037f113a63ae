// The workbench in the browser: which groups are open, stepping by arrow keys, dragging the ribbon, drafts.
// Every sum is done by the server; this moves texts and pictures.
"use strict";

(() => {
  const root = () => document.querySelector(".workbench");
  const draftKey = (key) => `rapzel:draft:${root().dataset.scene}:${key}`;
  const inputOf = (path) => document.querySelector(`input[data-path="${CSS.escape(path)}"]`);
  const errorOf = (input) => document.getElementById(input.id.replace(/^f-/, "e-"));

  const remembered = (name, fallback) => {
    try {
      return JSON.parse(localStorage.getItem(name)) || fallback;
    } catch {
      return fallback;
    }
  };

  document.addEventListener("alpine:init", () => {
    Alpine.data("workbench", () => ({
      groups: remembered("rapzel:groups", { lights: true }),
      margin: "",
      isOpen(name) {
        return Boolean(this.groups[name]);
      },
      toggle(name) {
        this.groups[name] = !this.groups[name];
        localStorage.setItem("rapzel:groups", JSON.stringify(this.groups));
      },
      isShown(name) {
        return this.margin === name;
      },
      show(name) {
        this.margin = this.margin === name ? "" : name;
      },
      chooseView() {
        for (const tab of this.$root.querySelectorAll("[data-view]")) {
          tab.setAttribute("aria-pressed", String(tab === this.$el));
        }
      },
    }));
  });

  // --- what comes back after a change ------------------------------------------------------------------------------

  const clearError = (input) => {
    const slot = input.id && errorOf(input);
    if (slot) slot.textContent = "";
    input.removeAttribute("aria-invalid");
    localStorage.removeItem(draftKey(input.id));
  };

  const showPicture = (fingerprint) => {
    const picture = document.getElementById("rehearsal");
    const url = `${picture.dataset.url}?v=${fingerprint}`;
    if (picture.dataset.wanted === url) return;
    picture.dataset.wanted = url;
    const figure = picture.parentElement;
    figure.classList.add("waiting");
    const loader = new Image();
    loader.onload = () => {
      if (picture.dataset.wanted !== url) return;
      picture.src = url;
      picture.alt = `Rehearsal: ${document.getElementById("rehearsal-says").textContent}`;
      figure.classList.remove("waiting");
    };
    loader.onerror = () => figure.classList.remove("waiting");
    loader.src = url;
  };

  document.addEventListener("rapzel:changed", (event) => {
    const { fields, forced, rehearsal } = event.detail;
    if (event.target.matches("[data-field]")) clearError(event.target);
    for (const [key, text] of Object.entries(fields)) {
      const input = document.getElementById(`f-${key}`);
      if (!input) continue;
      input.dataset.text = text;
      const editing = input === document.activeElement && key !== forced && !input.matches("select");
      const refused = input.getAttribute("aria-invalid") === "true" && key !== forced;
      if (!editing && !refused && input.value !== text) input.value = text;
    }
    showPicture(rehearsal);
  });

  document.addEventListener("rapzel:refused", (event) => {
    const input = document.getElementById(`f-${event.detail.key}`);
    if (!input) return;
    input.setAttribute("aria-invalid", "true");
    if (input.matches("[data-path]")) localStorage.setItem(draftKey(input.id), input.value);
    else if (input.dataset.text !== undefined) input.value = input.dataset.text;
  });

  // Leaving an input shows its value as Rapzel understood it.
  document.addEventListener("focusout", (event) => {
    const input = event.target;
    if (!input.matches || !input.matches("input[data-path]")) return;
    const settled = input.dataset.text !== undefined && input.getAttribute("aria-invalid") !== "true";
    if (settled && input.dataset.sent === input.value) input.value = input.dataset.text;
  });
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (event.target.matches("input[data-path]")) event.target.dataset.sent = event.target.value;
  });

  // --- a connection that drops: what was typed is kept and sent again ----------------------------------------------

  const notSaved = (event) => {
    const input = event.target;
    if (!input.matches || !input.matches("[data-field]")) return;
    localStorage.setItem(draftKey(input.id), input.value);
    const slot = errorOf(input);
    if (slot) slot.textContent = "Not saved yet: no answer from Rapzel. It is kept here and tried again.";
    setTimeout(() => document.contains(input) && htmx.trigger(input, input.matches("select") ? "change" : "commit"), 3000);
  };
  document.addEventListener("htmx:sendError", notSaved);
  document.addEventListener("htmx:timeout", notSaved);
  document.addEventListener("htmx:responseError", (event) => {
    if (event.detail.xhr.status >= 500) notSaved(event);
  });

  document.addEventListener("DOMContentLoaded", () => {
    for (const input of document.querySelectorAll("input[data-path]")) {
      input.dataset.text = input.value;
      const draft = localStorage.getItem(draftKey(input.id));
      if (draft === null || draft === input.value) continue;
      input.value = draft;
      htmx.trigger(input, "commit");
    }
  });

  // --- arrow keys step by a third of a stop ------------------------------------------------------------------------

  document.addEventListener("keydown", (event) => {
    const input = event.target;
    if (!input.matches || !input.matches("[data-step]") || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
    event.preventDefault();
    // Several quick presses step on from the stored value: only what was typed and not yet sent counts as a start.
    htmx.ajax("POST", root().dataset.stepUrl, {
      source: input,
      target: "#answer",
      values: { direction: event.key === "ArrowUp" ? "up" : "down", typed: input.value === input.dataset.text ? "" : input.value },
    });
  });

  // --- dragging bars of the ribbon ---------------------------------------------------------------------------------

  let drag = null;

  const nearest = (places, x) => places.reduce((best, each) => (Math.abs(each[0] - x) < Math.abs(best[0] - x) ? each : best));

  const across = (event) => {
    const drawing = document.querySelector("#ribbon svg");
    return new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse()).x;
  };

  const sendDrag = () => {
    const input = drag && inputOf(drag.path);
    if (!input || drag.busy || drag.wanted === drag.sent) return;
    drag.busy = true;
    drag.sent = drag.wanted;
    input.value = drag.wanted;
    htmx.trigger(input, "commit");
  };

  document.addEventListener("pointerdown", (event) => {
    const bar = event.target.closest && event.target.closest("[data-drag]");
    if (!bar) return;
    event.preventDefault();
    drag = { path: bar.dataset.drag, places: JSON.parse(bar.dataset.places), busy: false, wanted: null, sent: null, released: false };
    const box = bar.getBBox();
    drag.grip = across(event) - (bar.dataset.edge === "left" ? box.x : box.x + box.width);
  });
  document.addEventListener("pointermove", (event) => {
    if (!drag || drag.released) return;
    drag.wanted = nearest(drag.places, across(event) - drag.grip)[1];
    sendDrag();
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (!drag || event.target !== inputOf(drag.path)) return;
    drag.busy = false;
    if (drag.released && drag.wanted === drag.sent) drag = null;
    else sendDrag();
  });
  for (const name of ["pointerup", "pointercancel"]) {
    document.addEventListener(name, () => {
      if (!drag) return;
      drag.released = true;
      if (!drag.busy) drag = null;
    });
  }
})();
