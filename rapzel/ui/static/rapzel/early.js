// @ts-check
// What is pressed, chosen or typed before the page's scripts have come is done when they are there: on a slow line, or a
// slow machine, nothing is lost. The one script that the page waits for, so that it is there before anything can be pressed.
"use strict";

(() => {
  // What is nearest decides: links lead on, and fields take what is done in them, without any script.
  const NEAREST = "a[href], button, summary, [role=button], input, select, textarea, label";
  const PRESSED = "button, summary, [role=button]";
  const STEPS = ["ArrowUp", "ArrowDown"];
  /** @type {Map<Element | string, () => void>} */
  const early = new Map(); // in their order; what is pressed again because nothing happened counts once
  const isTyping = (/** @type {Element} */ element) => element.matches("input:not([type=checkbox]), select, textarea");

  const elementOf = (/** @type {Event} */ event) => /** @type {HTMLElement} */ (event.target);

  const onClick = (/** @type {Event} */ event) => {
    /** @type {HTMLElement | null} */
    const pressed = elementOf(event).closest(NEAREST);
    if (!pressed || !pressed.matches(PRESSED)) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    early.set(pressed, () => pressed.click());
  };
  // Inputs of a scene send what was typed in them by themselves (fields.js); choices and checks do not.
  const onEdit = (/** @type {Event} */ event) => {
    const input = elementOf(event);
    if (input.matches("input[data-field]:not([type=checkbox])")) return;
    early.set(input, () => {
      for (const name of ["input", "change"]) input.dispatchEvent(new Event(name, { bubbles: true }));
    });
  };
  // A shortcut that is pressed again, or held, counts once, as a button does; each step counts.
  const onKey = (/** @type {Event} */ event) => {
    if (!(event instanceof window.KeyboardEvent)) return;
    const target = elementOf(event);
    const { key } = event;
    const isShortcut = key.length === 1 && key !== " " && !isTyping(target);
    const isStep = isTyping(target) && STEPS.includes(key);
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (!isShortcut && !isStep) return;
    const name = isStep ? `step ${early.size}` : `shortcut ${key}`;
    early.set(name, () => target.dispatchEvent(new window.KeyboardEvent("keydown", { key, bubbles: true, cancelable: true })));
  };

  // Enter in a field sends its form.
  const onSubmit = (/** @type {Event} */ event) => {
    const form = /** @type {HTMLFormElement} */ (event.target);
    if (!form.matches("[hx-post], [hx-get]")) return;
    event.preventDefault();
    early.set(form, () => form.requestSubmit());
  };

  const listeners = { click: onClick, change: onEdit, input: onEdit, keydown: onKey, submit: onSubmit };
  for (const [name, listener] of Object.entries(listeners)) document.addEventListener(name, listener, true);

  const done = () => {
    for (const [name, listener] of Object.entries(listeners)) document.removeEventListener(name, listener, true);
    for (const act of early.values()) act();
  };
  // Scripts that the page defers have run by then, and what they wait for has begun.
  document.addEventListener("DOMContentLoaded", () => setTimeout(done));
})();
