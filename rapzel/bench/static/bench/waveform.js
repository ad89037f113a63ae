// The curve of a trace: zoom by dragging, two cursors, log level, other traces laid over it.
const COLOURS = ["--flash", "--room", "--time", "--limit", "--text"];
const DASHES = [[], [6, 3], [2, 3], [8, 3, 2, 3], [1, 2]];
const colour = (name) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

const figure = (number, digits) => String(Number(number.toPrecision(digits))).replace("-", "−");

const time = (seconds) => {
  if (seconds === null || Number.isNaN(seconds)) return "–";
  const size = Math.abs(seconds);
  const [factor, unit] = size >= 1 ? [1, "s"] : size >= 1e-3 ? [1e3, "ms"] : [1e6, "µs"];
  return `${figure(seconds * factor, 4)} ${unit}`;
};

// Two vertical cursors; each can be dragged by its handle or moved with the arrow keys.
const cursors = (at, moved) => {
  const lines = [];
  const place = (u) => {
    lines.forEach((line, n) => {
      const shown = at[n] >= u.scales.x.min && at[n] <= u.scales.x.max;
      line.hidden = !shown;
      if (shown) line.style.transform = `translateX(${u.valToPos(at[n], "x")}px)`;
      line.setAttribute("aria-valuetext", time(at[n]));
    });
    moved();
  };
  const grab = (u, line, n) => {
    line.addEventListener("pointerdown", (event) => {
      event.preventDefault();
      event.stopPropagation();
      line.setPointerCapture(event.pointerId);
      const move = (now) => {
        at[n] = u.posToVal(now.clientX - u.over.getBoundingClientRect().left, "x");
        place(u);
      };
      line.addEventListener("pointermove", move);
      line.addEventListener("pointerup", () => line.removeEventListener("pointermove", move), { once: true });
    });
    line.addEventListener("keydown", (event) => {
      const steps = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
      if (!steps) return;
      event.preventDefault();
      at[n] += (steps * (u.scales.x.max - u.scales.x.min)) / (event.shiftKey ? 20 : 200);
      place(u);
    });
  };
  const ready = (u) => {
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
      if (at[n] === null || at[n] < min || at[n] > max) at[n] = min + (max - min) * share;
    });
    place(u);
  };
  return { hooks: { ready, setScale: (u) => lines.length && place(u), setSize: (u) => lines.length && place(u) } };
};

// From the curve itself: the plot's own table has gaps where another curve was sampled, and where a log axis ends.
const levelAt = ({ t, v }, seconds) => {
  if (!(seconds >= t[0] && seconds <= t[t.length - 1])) return null;
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
    init() {
      this.marks = JSON.parse(this.$root.dataset.marks);
      this.clock = "";
      document.fonts.ready.then(() => this.pulse());
      window.addEventListener("resize", () => this.plot && this.plot.setSize({ width: this.$refs.plot.clientWidth, height: 320 }));
    },
    query(begin, end) {
      const asked = new URLSearchParams();
      if (begin !== null) asked.set("from", begin);
      if (end !== null) asked.set("to", end);
      asked.set("segment", this.sweep());
      for (const chosen of this.$refs.over ? this.$refs.over.selectedOptions : []) asked.append("over", chosen.value);
      return asked;
    },
    async load(begin, end) {
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
    keepTime(clock) {
      if (clock === this.clock) return;
      this.clock = clock;
      this.at = clock === "0" ? [this.marks.first05, this.marks.last05] : [null, null];
    },
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
      const tables = this.curves.map((curve) => [curve.t, curve.v]);
      const log = this.$refs.log.checked;
      const data = tables.length > 1 ? uPlot.join(tables) : tables[0];
      if (log) for (let n = 1; n < data.length; n += 1) data[n] = Array.from(data[n], (v) => (v > 0 ? v : null));
      const axis = { stroke: colour("--quiet"), grid: { stroke: colour("--rule"), width: 1 }, ticks: { show: false }, font: "12px B612" };
      const ticks = (u, all) => all.map((each) => (each === null ? "" : `${figure(each, 4)} ${this.unit}`));
      if (this.plot) this.plot.destroy();
      this.plot = new uPlot(
        {
          width: this.$refs.plot.clientWidth,
          height: 320,
          scales: { x: { time: false }, y: log ? { distr: 3 } : {} },
          axes: [{ ...axis, values: (u, all) => all.map((each) => time(each)) }, { ...axis, size: 66, values: ticks }],
          legend: { show: this.curves.length > 1, live: false },
          cursor: { drag: { x: true, y: false } },
          series: [{}, ...this.curves.map((curve, n) => ({ label: curve.name, stroke: colour(COLOURS[n % 5]), dash: DASHES[n % 5], width: 1.6, spanGaps: true, points: { show: false } }))],
          hooks: { setSelect: [(u) => u.select.width > 4 && this.clock !== "aligned" && this.load(u.posToVal(u.select.left, "x"), u.posToVal(u.select.left + u.select.width, "x"))] },
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
      const shown = (level) => (level === null ? "–" : `${figure(level, 3)} ${this.unit}`.trim());
      this.says = `A ${time(at[0])}, ${shown(levels[0])} · B ${time(at[1])}, ${shown(levels[1])} · Δt ${time(at[1] - at[0])}${whose}`;
    },
    png() {
      const link = document.createElement("a");
      link.download = "trace.png";
      link.href = this.plot.ctx.canvas.toDataURL("image/png");
      link.click();
    },
  }));
});
