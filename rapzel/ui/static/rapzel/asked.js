// @ts-check
// A form that answers as one types asks once more as its field is left, and that happens when a button of the answer is
// pressed: the answer would be replaced under the press, which would be lost. What was asked is not asked again.
import { elementOf } from "./dom.js";

/** What each form asked last, unless it got no answer. @type {WeakMap<Element, string>} */
const asked = new WeakMap();

/** One string for what a request carries, the same for the same fields in the same order. */
const questionOf = (/** @type {Iterable<[string, unknown]>} */ fields) => JSON.stringify([...fields]);

/** Keeps forms marked `data-asks-once` from asking what they have just asked. */
export const askOnce = (/** @type {Document} */ page) => {
  page.addEventListener("htmx:beforeRequest", (event) => {
    const form = elementOf(event);
    if (!form.matches("[data-asks-once]")) return;
    const question = questionOf(event.detail.requestConfig.formData);
    if (asked.get(form) === question) event.preventDefault();
    else asked.set(form, question);
  });
  page.addEventListener("htmx:afterRequest", (event) => {
    if (!event.detail.successful) asked.delete(elementOf(event));
  });
};
