// @ts-check
// Dragging in drawings. A handle says which input it writes to and the places it can be at, each with the text that
// stands for it; the server worked them out. The input is sent as if that text had been typed.
import { elementOf } from "./dom.js";
import { gripOf, nearest, textOf } from "./places.js";

/**
 * A handle that is held.
 * @typedef {object} Held
 * @property {string} key of the input that it writes to
 * @property {import("./places.js").Place[]} places that it can be at
 * @property {string | undefined} text the same, as the drawing says it
 * @property {() => SVGSVGElement | null} drawing the one on the page now: a change puts another in its place
 * @property {import("./places.js").Point} grip from the point that is moved to where it was taken hold of
 * @property {boolean} busy whether a change is on its way
 * @property {string | null} wanted what the input should say
 * @property {string | null} sent what it said last
 * @property {boolean} released
 */

/** @returns {HTMLInputElement | null} */
const inputOf = (/** @type {string} */ key) =>
  document.querySelector(`input[data-path="${CSS.escape(key)}"]`) || document.querySelector(`form [name="${CSS.escape(key)}"]`);
/** @type {Held | null} */
let drag = null;
const hold = (/** @type {Held | null} */ handle) => {
  drag = handle;
  document.body.classList.toggle("dragging", drag !== null);
};
export const isDragging = () => drag !== null;

/** Where the pointer is, in units of a drawing. */
const within = (/** @type {SVGSVGElement} */ drawing, /** @type {PointerEvent} */ event) => {
  const point = new DOMPoint(event.clientX, event.clientY);
  return point.matrixTransform(drawing.getScreenCTM()?.inverse());
};

const send = () => {
  const input = drag && inputOf(drag.key);
  if (!drag || !input || drag.busy || drag.wanted === null || drag.wanted === drag.sent) return;
  drag.busy = true;
  drag.sent = drag.wanted;
  input.value = drag.wanted;
  if (input.matches("[data-field]")) {
    input.dispatchEvent(new Event("rapzel:edit", { bubbles: true }));
    htmx.trigger(input, "commit");
  } else {
    input.dispatchEvent(new Event("change", { bubbles: true }));
  }
};

document.addEventListener("pointerdown", (event) => {
  /** @type {SVGGraphicsElement | null} */
  const handle = elementOf(event).closest("[data-drag]");
  const drawn = handle && handle.closest("svg");
  /** @type {HTMLElement | null} */
  const figure = drawn && (drawn.closest("[data-drawing]") || drawn.parentElement);
  if (!handle || !drawn || !figure) return;
  event.preventDefault();
  const order = [...figure.querySelectorAll("svg")].indexOf(drawn);
  const shown = () => (document.contains(figure) ? figure : document.querySelector(`[data-drawing="${figure.dataset.drawing}"]`));
  const text = handle.dataset.places || "[]";
  hold({
    key: handle.dataset.drag || "",
    places: JSON.parse(text),
    text,
    drawing: () => shown()?.querySelectorAll("svg")[order] || null,
    grip: gripOf(handle.getBBox(), within(drawn, event), handle.dataset.edge),
    busy: false,
    wanted: null,
    sent: null,
    released: false,
  });
});
// The drawing that came back may have another scale: its own places hold from then on.
const renewPlaces = (/** @type {Held} */ held, /** @type {SVGSVGElement} */ drawing) => {
  /** @type {SVGElement | null} */
  const live = drawing.querySelector(`[data-drag="${CSS.escape(held.key)}"]`);
  if (!live || live.dataset.places === held.text) return;
  held.text = live.dataset.places || "[]";
  held.places = JSON.parse(held.text);
};

document.addEventListener("pointermove", (event) => {
  if (!drag || drag.released) return;
  const drawing = drag.drawing();
  if (!drawing) return;
  renewPlaces(drag, drawing);
  const at = within(drawing, event);
  const place = nearest(drag.places, { x: at.x - drag.grip.x, y: at.y - drag.grip.y });
  drag.wanted = textOf(place);
  send();
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (!drag) return;
  if (!elementOf(event).contains(inputOf(drag.key))) return;
  drag.busy = false;
  if (drag.released && (drag.wanted === null || drag.wanted === drag.sent)) hold(null);
  else send();
});
for (const name of ["pointerup", "pointercancel"]) {
  document.addEventListener(name, () => {
    if (!drag) return;
    drag.released = true;
    if (!drag.busy) hold(null);
  });
}
