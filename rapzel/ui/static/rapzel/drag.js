// Dragging in drawings. A handle says which input it writes to and the places it can be at, each with the text that
// stands for it; the server worked them out. The input is sent as if that text had been typed.
import { gripOf, nearest, textOf } from "./places.js";

const inputOf = (key) =>
  document.querySelector(`input[data-path="${CSS.escape(key)}"]`) || document.querySelector(`form [name="${CSS.escape(key)}"]`);
let drag = null; // the handle that is held
const hold = (handle) => {
  drag = handle;
  document.body.classList.toggle("dragging", drag !== null);
};
export const isDragging = () => drag !== null;

const within = (event) => {
  const drawing = drag.drawing();
  return new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
};

const send = () => {
  const input = drag && inputOf(drag.key);
  if (!input || drag.busy || drag.wanted === null || drag.wanted === drag.sent) return;
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
  const handle = event.target.closest && event.target.closest("[data-drag]");
  if (!handle) return;
  event.preventDefault();
  const figure = handle.closest("[data-drawing]") || handle.closest("svg").parentElement;
  const order = [...figure.querySelectorAll("svg")].indexOf(handle.closest("svg"));
  const shown = () => (document.contains(figure) ? figure : document.querySelector(`[data-drawing="${figure.dataset.drawing}"]`));
  hold({
    key: handle.dataset.drag, places: JSON.parse(handle.dataset.places), busy: false, wanted: null, sent: null, released: false,
    text: handle.dataset.places, drawing: () => shown() && shown().querySelectorAll("svg")[order],
  });
  const box = handle.getBBox();
  const at = within(event);
  drag.grip = gripOf(box, at, handle.dataset.edge);
});
// The drawing that came back may have another scale: its own places hold from then on.
const renewPlaces = () => {
  const live = drag.drawing().querySelector(`[data-drag="${CSS.escape(drag.key)}"]`);
  if (!live || live.dataset.places === drag.text) return;
  drag.text = live.dataset.places;
  drag.places = JSON.parse(drag.text);
};

document.addEventListener("pointermove", (event) => {
  if (!drag || drag.released || !drag.drawing()) return;
  renewPlaces();
  const at = within(event);
  const place = nearest(drag.places, { x: at.x - drag.grip.x, y: at.y - drag.grip.y });
  drag.wanted = textOf(place);
  send();
});
document.addEventListener("htmx:afterRequest", (event) => {
  if (!drag) return;
  const input = inputOf(drag.key);
  if (event.target !== input && !(event.target.contains && event.target.contains(input))) return;
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
