// @ts-check
// The drill: a figure leaps, a ball lands, or a lamp lights up; the press is timed against the instant that was drawn.
// What the tries come to is worked out by the server.
import { newKey } from "../takes/sending.js";
const TRIES = 12;
const UP_S = 0.38; // from the jump to its top
const FALL_S = 0.55; // from the release to the ground
const AFTER_S = 1.2; // within which a press still belongs to the try
const HEIGHT = 110; // of leap and fall, in units of the drawing

const tone = (/** @type {AudioContext} */ context, /** @type {number} */ hertz) => {
  const beep = context.createOscillator();
  const quiet = context.createGain();
  quiet.gain.value = 0.08;
  beep.frequency.value = hertz;
  beep.connect(quiet).connect(context.destination);
  beep.start();
  beep.stop(context.currentTime + 0.04);
};

document.addEventListener("alpine:init", () => {
  Alpine.data("drill", () => ({
    running: false,
    says: "",
    what: "leap",
    errors: /** @type {number[]} seconds, late is positive */ ([]),
    audio: /** @type {AudioContext | null} */ (null),
    waits: 0, // the timer of the next try
    frame: 0, // the animation's
    from: 0, // when the try began, on the page's clock in milliseconds
    instant: /** @type {number | null} on the same clock; none while no try runs */ (null),
    sounded: false,
    init() {
      this.errors = [];
      this.$root.dataset.what = this.what;
      document.addEventListener("keydown", (event) => {
        if (event.key !== " " || !this.running || event.repeat) return;
        event.preventDefault();
        this.take(event.timeStamp);
      });
    },
    choose() {
      this.what = this.$el.value;
      this.$root.dataset.what = this.what;
      if (this.running) this.stop("Stopped: another drill was chosen.");
    },
    toggle() {
      if (this.running) this.stop("Stopped. Nothing was kept.");
      else this.begin();
      this.$el.blur();
    },
    begin() {
      this.running = true;
      this.errors = [];
      this.$refs.tries.replaceChildren();
      this.audio = this.$refs.sound.checked ? new window.AudioContext() : null;
      this.says = `${TRIES} tries. The first one comes.`;
      this.next();
    },
    stop(/** @type {string} */ words) {
      this.running = false;
      this.instant = null;
      clearTimeout(this.waits);
      window.cancelAnimationFrame(this.frame);
      this.place(0);
      this.light(false);
      this.says = words;
    },
    next() {
      this.place(0);
      this.light(false);
      const wait = Number(this.$root.dataset.wait);
      this.waits = window.setTimeout(() => this.start(), wait + 1.3 * wait * Math.random());
    },
    start() {
      /** @type {Record<string, number>} */
      const before = { leap: UP_S, ball: FALL_S, lamp: 0 };
      this.from = window.performance.now();
      this.instant = this.from + before[this.what] * 1000;
      this.sounded = false;
      if (this.audio && this.what !== "lamp") tone(this.audio, 330);
      document.dispatchEvent(new CustomEvent("rapzel:drill", { detail: { instant: this.instant } }));
      this.draw();
    },
    draw() {
      this.frame = window.requestAnimationFrame((now) => {
        const since = (now - this.from) / 1000;
        this.show(since);
        if (this.instant === null) return;
        if (this.audio && !this.sounded && now >= this.instant && this.what !== "leap") {
          this.sounded = true;
          tone(this.audio, 660);
        }
        if (window.performance.now() < this.instant + AFTER_S * 1000) this.draw();
        else this.missed();
      });
    },
    show(/** @type {number} */ since) {
      if (this.what === "lamp") this.light(since >= 0);
      else if (this.what === "leap") this.place(HEIGHT * Math.max(1 - ((since - UP_S) / UP_S) ** 2, 0));
      else this.place(2 * HEIGHT * Math.max(1 - (since / FALL_S) ** 2, 0));
    },
    place(/** @type {number} */ height) {
      this.$refs.mover.setAttribute("transform", `translate(0 ${-height})`);
    },
    light(/** @type {boolean} */ on) {
      this.$refs.lamp.classList.toggle("lit", on);
    },
    press() {
      if (this.running) this.take(this.$event.timeStamp);
    },
    take(/** @type {number} */ at) {
      if (this.instant === null) {
        this.says = "Too soon: wait for it to begin.";
        return;
      }
      const error = (at - this.instant) / 1000;
      this.instant = null;
      window.cancelAnimationFrame(this.frame);
      this.errors.push(error);
      this.note(`${Math.abs(Math.round(error * 1000))} ms ${error > 0 ? "late" : "early"}`);
      this.after();
    },
    missed() {
      this.instant = null;
      this.says = "No press came: that one does not count.";
      this.next();
    },
    note(/** @type {string} */ words) {
      this.says = `${words}. ${this.errors.length} of ${TRIES}.`;
      const line = document.createElement("li");
      line.textContent = words;
      this.$refs.tries.append(line);
    },
    after() {
      if (this.errors.length < TRIES) {
        this.next();
        return;
      }
      const sound = this.$refs.sound.checked ? "1" : "0";
      // Its own key: a drill whose answer was lost and that is sent again is stored once.
      const values = { what: this.what, sound, tries: JSON.stringify(this.errors), key: newKey() };
      this.stop("Done.");
      htmx.ajax("POST", this.$root.dataset.url || "", { target: "#drills", values });
    },
  }));
});
