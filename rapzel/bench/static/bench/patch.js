// @ts-check
// The first frame of a grey card run, to draw the patch on.
document.addEventListener("alpine:init", () => {
  Alpine.data("patch", () => ({
    shown: false,
    chosen: "JPEG, PNG or TIFF; mark all files of a folder",
    from: /** @type {[number, number] | null} */ (null), // where the pointer went down, as shares of the picture
    show(/** @type {Event} */ event) {
      const chosen = /** @type {HTMLInputElement} */ (event.target);
      const files = [...(chosen.files || [])].sort((a, b) => a.name.localeCompare(b.name));
      this.chosen = files.length === 1 ? files[0].name : `${files.length} frames`;
      this.shown = Boolean(files.length) && !/tiff?$/i.test(files[0].name);
      this.$refs.patch.value = "";
      this.$refs.mark.hidden = true;
      if (!this.shown) return;
      const reader = new FileReader();
      reader.onload = () => (this.$refs.picture.src = reader.result);
      reader.readAsDataURL(files[0]);
    },
    /** @returns {[number, number]} */
    at(/** @type {PointerEvent} */ event) {
      const box = this.$refs.box.getBoundingClientRect();
      const part = (/** @type {number} */ value, /** @type {number} */ size) => Math.min(Math.max(value / size, 0), 1);
      return [part(event.clientX - box.left, box.width), part(event.clientY - box.top, box.height)];
    },
    begin(/** @type {PointerEvent} */ event) {
      event.preventDefault();
      this.from = this.at(event);
    },
    move(/** @type {PointerEvent} */ event) {
      if (!this.from) return;
      const to = this.at(event);
      const [left, top] = [Math.min(this.from[0], to[0]), Math.min(this.from[1], to[1])];
      const [width, height] = [Math.abs(this.from[0] - to[0]), Math.abs(this.from[1] - to[1])];
      const mark = this.$refs.mark;
      mark.hidden = width < 0.005 || height < 0.005;
      mark.style.left = `${left * 100}%`;
      mark.style.top = `${top * 100}%`;
      mark.style.width = `${width * 100}%`;
      mark.style.height = `${height * 100}%`;
      this.$refs.patch.value = mark.hidden ? "" : [left, top, width, height].map((each) => each.toFixed(4)).join(",");
    },
    end() {
      this.from = null;
    },
  }));
});
