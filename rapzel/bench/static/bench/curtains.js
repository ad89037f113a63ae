// The edge of a dark band, dragged on a picture that never leaves the browser.
document.addEventListener("alpine:init", () => {
  Alpine.data("curtains", () => ({
    shown: false,
    frame: "1",
    at: 50,
    held: false,
    choose(event) {
      this.frame = event.currentTarget.dataset.frame;
      this.$refs.file.click();
    },
    read(event) {
      const [file] = event.target.files;
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
      event.target.value = "";
    },
    // `at` is counted from the top of the picture, in percent of its height.
    place(at) {
      this.at = Math.min(Math.max(at, 0), 100);
      this.$refs.edge.style.transform = `translateY(${(this.at / 100) * this.$refs.frame.clientHeight}px)`;
      const dark = document.getElementById("id_edge").value === "upper" ? this.at : 100 - this.at;
      this.$refs.edge.setAttribute("aria-valuenow", dark.toFixed(1));
      const field = document.getElementById(`id_dark${this.frame}`);
      field.value = dark.toFixed(1);
      field.dispatchEvent(new Event("input", { bubbles: true }));
    },
    grab(event) {
      this.held = true;
      this.$refs.frame.setPointerCapture(event.pointerId);
      this.move(event);
    },
    move(event) {
      if (!this.held) return;
      const box = this.$refs.frame.getBoundingClientRect();
      this.place(((event.clientY - box.top) / box.height) * 100);
    },
    drop() {
      this.held = false;
    },
    step(event) {
      const by = { ArrowUp: -0.2, ArrowDown: 0.2, PageUp: -5, PageDown: 5 }[event.key];
      if (by === undefined) return;
      event.preventDefault();
      this.place(this.at + by);
    },
  }));
});
