// @ts-check
// The edge of a dark band, dragged on a picture that never leaves the browser.
import { inputById } from "../rapzel/dom.js";

document.addEventListener("alpine:init", () => {
  Alpine.data("curtains", () => ({
    shown: false,
    frame: "1",
    at: 50,
    held: false,
    choose(/** @type {Event} */ event) {
      const button = /** @type {HTMLElement} */ (event.currentTarget);
      this.frame = button.dataset.frame || "1";
      this.$refs.file.click();
    },
    read(/** @type {Event} */ event) {
      const chosen = /** @type {HTMLInputElement} */ (event.target);
      const file = chosen.files?.[0];
      if (!file) return;
      const reader = new FileReader();
      this.$refs.wall.onload = () => {
        this.shown = true;
        this.$nextTick(() => {
          this.place(50);
          this.$refs.edge.focus();
        });
      };
      reader.onload = () => {
        this.$refs.wall.src = reader.result;
      };
      reader.readAsDataURL(file);
      chosen.value = "";
    },
    // `at` is counted from the top of the picture, in percent of its height.
    place(/** @type {number} */ at) {
      this.at = Math.min(Math.max(at, 0), 100);
      this.$refs.edge.style.transform = `translateY(${(this.at / 100) * this.$refs.frame.clientHeight}px)`;
      const dark = inputById("id_edge")?.value === "upper" ? this.at : 100 - this.at;
      this.$refs.edge.setAttribute("aria-valuenow", dark.toFixed(1));
      const field = inputById(`id_dark${this.frame}`);
      if (!field) return;
      field.value = dark.toFixed(1);
      field.dispatchEvent(new Event("input", { bubbles: true }));
    },
    grab(/** @type {PointerEvent} */ event) {
      this.held = true;
      this.$refs.frame.setPointerCapture(event.pointerId);
      this.move(event);
    },
    move(/** @type {PointerEvent} */ event) {
      if (!this.held) return;
      const box = this.$refs.frame.getBoundingClientRect();
      this.place(((event.clientY - box.top) / box.height) * 100);
    },
    drop() {
      this.held = false;
    },
    step(/** @type {KeyboardEvent} */ event) {
      /** @type {Record<string, number>} percent of the picture's height a key */
      const keys = { ArrowUp: -0.2, ArrowDown: 0.2, PageUp: -5, PageDown: 5 };
      const by = keys[event.key];
      if (by === undefined) return;
      event.preventDefault();
      this.place(this.at + by);
    },
  }));
});
