// @ts-check
// Arrow keys step a word of the limits, as they step the inputs of the workbench.
import { elementOf } from "../rapzel/dom.js";

document.addEventListener("keydown", (event) => {
  const word = /** @type {HTMLInputElement} */ (elementOf(event));
  if (!word.matches("input.word") || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
  event.preventDefault();
  const { name } = JSON.parse(word.getAttribute("hx-vals") || "{}");
  const direction = event.key === "ArrowUp" ? "up" : "down";
  const kept = word.value;
  word.defaultValue = kept; // leaving it says nothing more: what was typed is on its way
  htmx.ajax("POST", word.getAttribute("hx-post") || "", { source: word, target: "#found", values: { name, value: kept, direction } });
});
