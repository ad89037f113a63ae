// @ts-check
// What a label means, opened beside it: by a press on its question mark, or by the keyboard. One note is open at a time.
import { elementOf } from "./dom.js";

const GAP_PX = 6;

const note = () => /** @type {HTMLElement} */ (document.getElementById("word"));
/** @type {HTMLElement | null} the question mark whose note is open */
let opener = null;

const place = (/** @type {HTMLElement} */ mark) => {
  const at = mark.getBoundingClientRect();
  const size = note().getBoundingClientRect();
  const left = Math.max(GAP_PX, Math.min(at.left, window.innerWidth - size.width - GAP_PX));
  const below = at.bottom + GAP_PX;
  const fits = below + size.height <= window.innerHeight;
  note().style.left = `${left}px`;
  note().style.top = `${fits ? below : Math.max(GAP_PX, at.top - size.height - GAP_PX)}px`;
};

const close = () => {
  if (!opener) return;
  opener.setAttribute("aria-expanded", "false");
  opener = null;
  note().hidden = true;
};

const open = async (/** @type {HTMLElement} */ mark) => {
  close();
  opener = mark;
  mark.setAttribute("aria-expanded", "true");
  const address = `${note().dataset.url}${mark.dataset.word}/`;
  const answer = await fetch(address, { headers: { "HX-Request": "true" } }).catch(() => null);
  if (opener !== mark) return;
  if (answer && answer.ok) note().innerHTML = await answer.text();
  else note().textContent = "No connection: the meaning of this word cannot be shown now.";
  if (opener !== mark) return;
  note().hidden = false;
  place(mark);
};

document.addEventListener("click", (event) => {
  const pressed = elementOf(event);
  /** @type {HTMLElement | null} */
  const mark = pressed.closest("[data-word]");
  if (mark && mark !== opener) {
    // A press on the mark must not press the label that it stands in.
    event.preventDefault();
    open(mark);
  } else if (mark || !pressed.closest("#word")) close();
});
document.addEventListener("keydown", (event) => {
  if (event.key !== "Escape" || !opener) return;
  const mark = opener;
  close();
  mark.focus();
});
