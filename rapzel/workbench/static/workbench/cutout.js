// @ts-check
// Marking the moving part of one's own cut-out and its pivot: on the picture, or by the figures beside it.
document.addEventListener("alpine:init", () => {
  const limited = (/** @type {number} */ share) => Math.min(Math.max(share, 0), 1) * 100;

  Alpine.data("cutout", () => ({
    shown: false,
    partly: false,
    turns: false,
    marks: "part",
    begun: /** @type {[number, number] | null} */ (null), // where the pointer went down
    init() {
      this.shown = this.$refs.picture.hasAttribute("src");
      this.show();
    },
    /** @returns {HTMLInputElement} */
    field(/** @type {string} */ name) {
      return this.$refs.form.elements[name];
    },
    // Everything on the picture follows from the form.
    show(/** @type {Event | undefined} */ event = undefined) {
      if (event && event.type === "change" && event.target === this.field("picture")) this.read();
      this.partly = this.field("partly").checked;
      this.turns = this.field("turns").checked;
      if (!this.turns) this.marks = "part";
      const at = (/** @type {string} */ name) => Number(this.field(name).value) || 0;
      const { part, pivot } = this.$refs;
      part.style.left = `${at("left")}%`;
      part.style.top = `${at("top")}%`;
      part.style.width = `${Math.max(at("right") - at("left"), 0)}%`;
      part.style.height = `${Math.max(at("bottom") - at("top"), 0)}%`;
      pivot.style.left = `${at("pivot_x")}%`;
      pivot.style.top = `${at("pivot_y")}%`;
    },
    read() {
      const file = this.field("picture").files?.[0];
      if (!file) return;
      const reader = new FileReader();
      reader.onload = () => {
        this.$refs.picture.src = reader.result;
        this.shown = true;
      };
      reader.readAsDataURL(file);
    },
    markPart() {
      this.marks = "part";
    },
    markPivot() {
      this.marks = "pivot";
    },
    put(/** @type {Record<string, number>} */ values) {
      for (const [name, share] of Object.entries(values)) this.field(name).value = limited(share).toFixed(1);
      this.show();
    },
    /** @returns {[number, number]} */
    place(/** @type {PointerEvent} */ event) {
      const box = this.$refs.frame.getBoundingClientRect();
      return [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height];
    },
    grab(/** @type {PointerEvent} */ event) {
      if (!this.partly) return;
      this.begun = this.place(event);
      this.$refs.frame.setPointerCapture(event.pointerId);
      if (this.marks === "pivot") this.move(event);
    },
    move(/** @type {PointerEvent} */ event) {
      if (this.begun === null) return;
      const [x, y] = this.place(event);
      if (this.marks === "pivot") {
        this.put({ pivot_x: x, pivot_y: y });
        return;
      }
      const [fromX, fromY] = this.begun;
      this.put({
        left: Math.min(x, fromX),
        top: Math.min(y, fromY),
        right: Math.max(x, fromX),
        bottom: Math.max(y, fromY),
      });
    },
    drop() {
      this.begun = null;
    },
  }));
});
