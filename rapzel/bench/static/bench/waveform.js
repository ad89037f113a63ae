// @ts-check
// The curve of a trace: zoom by dragging, two cursors, log level, other traces laid over it.
const COLOURS = ["--flash", "--room", "--time", "--limit", "--text"];
const HEIGHT = 320;
const DASHES = [[], [6, 3], [2, 3], [8, 3, 2, 3], [1, 2]];

/**
 * What the server gives of a trace: instants in seconds, levels in the trace's unit.
 * @typedef {{ name: string, t: number[], v: number[] }} Curve
 * @typedef {{ first01: number | null, last01: number | null, first05: number | null, last05: number | null }} Marks
 * @typedef {[number | null, number | null]} Places of the two cursors, in seconds
 */

const colour = (/** @type {string} */ name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

const figure = (/** @type {number} */ number, /** @type {number} */ digits) => String(Number(number.toPrecision(digits))).replace("-", "−");

const time = (/** @type {number | null} */ seconds) => {
  if (seconds === null || Number.isNaN(seconds)) return "–";
  const size = Math.abs(seconds);
  if (size >= 1) return `${figure(seconds, 4)} s`;
  if (size >= 1e-3) return `${figure(seconds * 1e3, 4)} ms`;
  return `${figure(seconds * 1e6, 4)} µs`;
};

// Two vertical cursors; each can be dragged by its handle or moved with the arrow keys.
const cursors = (/** @type {Places} */ at, /** @type {() => void} */ moved) => {
  /** @type {HTMLElement[]} */
  const lines = [];
  const place = (/** @type {UPlot} */ u) => {
    lines.forEach((line, n) => {
      const seconds = at[n];
      const isShown = seconds !== null && seconds >= u.scales.x.min && seconds <= u.scales.x.max;
      line.hidden = !isShown;
      if (isShown) line.style.transform = `translateX(${u.valToPos(seconds, "x")}px)`;
      line.setAttribute("aria-valuetext", time(seconds));
    });
    moved();
  };
  const grab = (/** @type {UPlot} */ u, /** @type {HTMLElement} */ line, /** @type {number} */ n) => {
    line.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      event.stopPropagation();
      line.setPointerCapture(event.pointerId);
      const move = (/** @type {PointerEvent} */ now) => {
        at[n] = u.posToVal(now.clientX - u.over.getBoundingClientRect().left, "x");
        place(u);
      };
      line.addEventListener("pointermove", move);
      line.addEventListener("pointerup", () => line.removeEventListener("pointermove", move), { once: true });
    });
    line.addEventListener("keydown", (event) => {
      /** @type {Record<string, number>} */
      const ways = { ArrowLeft: -1, ArrowRight: 1 };
      const way = ways[event.key];
      if (!way) return;
      event.preventDefault();
      at[n] = (at[n] || 0) + (way * (u.scales.x.max - u.scales.x.min)) / (event.shiftKey ? 20 : 200);
      place(u);
    });
  };
  const ready = (/** @type {UPlot} */ u) => {
    ["A", "B"].forEach((name, n) => {
      const line = document.createElement("div");
      line.className = `plot-cursor plot-cursor-${name.toLowerCase()}`;
      line.tabIndex = 0;
      line.setAttribute("role", "slider");
      line.setAttribute("aria-label", `Cursor ${name}`);
      const handle = document.createElement("span");
      handle.textContent = name;
      line.append(handle);
      u.over.append(line);
      lines.push(line);
      grab(u, line, n);
    });
    // A cursor outside the stretch on show could not be taken hold of: it comes in.
    const { min, max } = u.scales.x;
    [0.3, 0.6].forEach((share, n) => {
      const seconds = at[n];
      if (seconds === null || seconds < min || seconds > max) at[n] = min + (max - min) * share;
    });
    place(u);
  };
  const again = (/** @type {UPlot} */ u) => {
    if (lines.length) place(u);
  };
  return { hooks: { ready, setScale: again, setSize: again } };
};

// From the curve itself: the plot's own table has gaps where another curve was sampled, and where a log axis ends.
const levelAt = (/** @type {Curve} */ { t, v }, /** @type {number | null} */ seconds) => {
  if (seconds === null || !(seconds >= t[0] && seconds <= t[t.length - 1])) return null;
  let low = 0;
  let high = t.length - 1;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (t[middle] <= seconds) low = middle;
    else high = middle;
  }
  const share = high > low && t[high] > t[low] ? (seconds - t[low]) / (t[high] - t[low]) : 0;
  return v[low] + share * (v[high] - v[low]);
};

document.addEventListener("alpine:init", () => {
  Alpine.data("waveform", () => ({
    says: "",
    marks: /** @type {Marks} */ ({ first01: null, last01: null, first05: null, last05: null }),
    clock: "", // of the plot: which sweep, or all aligned at their rise
    at: /** @type {Places} */ ([null, null]),
    curves: /** @type {Curve[]} */ ([]),
    unit: "",
    plot: /** @type {UPlot | null} */ (null),
    init() {
      this.marks = JSON.parse(this.$root.dataset.marks || "{}");
      document.fonts.ready.then(() => this.pulse());
      window.addEventListener("resize", () => this.plot?.setSize({ width: this.$refs.plot.clientWidth, height: HEIGHT }));
    },
    query(/** @type {number | null} */ begin, /** @type {number | null} */ end) {
      const asked = new URLSearchParams();
      if (begin !== null) asked.set("from", String(begin));
      if (end !== null) asked.set("to", String(end));
      asked.set("segment", this.sweep());
      for (const chosen of this.$refs.over ? this.$refs.over.selectedOptions : []) asked.append("over", chosen.value);
      return asked;
    },
    async load(/** @type {number | null} */ begin, /** @type {number | null} */ end) {
      const answer = await fetch(`${this.$root.dataset.url}?${this.query(begin, end)}`);
      if (!answer.ok) {
        this.says = "No answer from Rapzel. Try again.";
        return;
      }
      const found = await answer.json();
      this.keepTime(found.aligned ? "aligned" : this.sweep());
      this.curves = found.aligned || found.curves;
      this.unit = found.unit;
      this.redraw();
    },
    // The cursors stay where they were put for as long as the plot has the same clock.
    keepTime(/** @type {string} */ clock) {
      if (clock === this.clock) return;
      this.clock = clock;
      this.at = clock === "0" ? [this.marks.first05, this.marks.last05] : [null, null];
    },
    /** @returns {string} */
    sweep() {
      return this.$refs.segment ? this.$refs.segment.value : "0";
    },
    pulse() {
      const { first01: first, last01: last } = this.marks;
      if (first === null || last === null || this.sweep() !== "0") return this.whole();
      return this.load(first - 0.3 * (last - first), last + 1.5 * (last - first));
    },
    whole() {
      this.load(null, null);
    },
    redraw() {
      /** @type {UPlotTable[]} */
      const tables = this.curves.map((curve) => [curve.t, curve.v]);
      const log = this.$refs.log.checked;
      const data = tables.length > 1 ? uPlot.join(tables) : tables[0];
      // A logarithmic axis has no place for nothing and less.
      const drawn = (/** @type {number | null} */ level) => (level !== null && level > 0 ? level : null);
      if (log) for (let n = 1; n < data.length; n += 1) data[n] = Array.from(data[n], drawn);
      const axis = { stroke: colour("--quiet"), grid: { stroke: colour("--rule"), width: 1 }, ticks: { show: false }, font: "12px B612" };
      const levels = (/** @type {UPlot} */ u, /** @type {(number | null)[]} */ all) =>
        all.map((each) => (each === null ? "" : `${figure(each, 4)} ${this.unit}`));
      const instants = (/** @type {UPlot} */ u, /** @type {number[]} */ all) => all.map((each) => time(each));
      const series = this.curves.map((curve, n) => ({
        label: curve.name,
        stroke: colour(COLOURS[n % 5]),
        dash: DASHES[n % 5],
        width: 1.6,
        spanGaps: true,
        points: { show: false },
      }));
      const zoom = (/** @type {UPlot} */ u) => {
        const { left, width } = u.select;
        if (width > 4 && this.clock !== "aligned") this.load(u.posToVal(left, "x"), u.posToVal(left + width, "x"));
      };
      if (this.plot) this.plot.destroy();
      this.plot = new uPlot(
        {
          width: this.$refs.plot.clientWidth,
          height: HEIGHT,
          scales: { x: { time: false }, y: log ? { distr: 3 } : {} },
          axes: [{ ...axis, values: instants }, { ...axis, size: 66, values: levels }],
          legend: { show: this.curves.length > 1, live: false },
          cursor: { drag: { x: true, y: false } },
          series: [{}, ...series],
          hooks: { setSelect: [zoom] },
          plugins: [cursors(this.at, () => this.tell())],
        },
        data,
        this.$refs.plot
      );
      this.$refs.plot.dataset.points = String(data[0].length);
    },
    tell() {
      const at = this.at;
      const levels = at.map((each) => levelAt(this.curves[0], each));
      const whose = this.curves.length > 1 ? ` · levels of ${this.curves[0].name}` : "";
      const shown = (/** @type {number | null} */ level) => (level === null ? "–" : `${figure(level, 3)} ${this.unit}`.trim());
      this.says = `A ${time(at[0])}, ${shown(levels[0])} · B ${time(at[1])}, ${shown(levels[1])} · Δt ${time(at[0] === null || at[1] === null ? null : at[1] - at[0])}${whose}`;
    },
    png() {
      const link = document.createElement("a");
      link.download = "trace.png";
      if (!this.plot) return;
      link.href = this.plot.ctx.canvas.toDataURL("image/png");
      link.click();
    },
  }));
});
