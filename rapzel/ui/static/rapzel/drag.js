// Dragging in drawings. A handle says which input it writes to and the places it can be at, each with the text that
// stands for it; the server worked them out. The input is sent as if that text had been typed.
"use strict";

(() => {
  const inputOf = (key) =>
    document.querySelector(`input[data-path="${CSS.escape(key)}"]`) || document.querySelector(`form [name="${CSS.escape(key)}"]`);
  let drag = null; // the handle that is held
  window.rapzelDragging = () => drag !== null;

  // Places are [x, text] along a line, or [x, y, text] in the plane.
  const away = (place, at) => (place.length === 2 ? Math.abs(place[0] - at.x) : Math.hypot(place[0] - at.x, place[1] - at.y));
  const nearest = (places, at) => places.reduce((best, each) => (away(each, at) < away(best, at) ? each : best));

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
    drag = {
      key: handle.dataset.drag, places: JSON.parse(handle.dataset.places), busy: false, wanted: null, sent: null, released: false,
      text: handle.dataset.places, drawing: () => shown() && shown().querySelectorAll("svg")[order],
    };
    const box = handle.getBBox();
    const at = within(event);
    const edge = handle.dataset.edge;
    const x = edge === "left" ? box.x : edge === "right" ? box.x + box.width : box.x + box.width / 2;
    drag.grip = { x: at.x - x, y: at.y - (box.y + box.height / 2) };
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
    drag.wanted = place[place.length - 1];
    send();
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (!drag) return;
    const input = inputOf(drag.key);
    if (event.target !== input && !(event.target.contains && event.target.contains(input))) return;
    drag.busy = false;
    if (drag.released && (drag.wanted === null || drag.wanted === drag.sent)) drag = null;
    else send();
  });
  for (const name of ["pointerup", "pointercancel"]) {
    document.addEventListener(name, () => {
      if (!drag) return;
      drag.released = true;
      if (!drag.busy) drag = null;
    });
  }
})();
