// What is pressed, chosen or typed before the page's scripts have come is done when they are there: on a slow line, or a
// slow machine, nothing is lost. The one script that the page waits for, so that it is there before anything can be pressed.
"use strict";

(() => {
  // What is nearest decides: links lead on, and fields take what is done in them, without any script.
  const NEAREST = "a[href], button, summary, [role=button], input, select, textarea, label";
  const PRESSED = "button, summary, [role=button]";
  const STEPS = ["ArrowUp", "ArrowDown"];
  const early = new Map(); // in their order; what is pressed again because nothing happened counts once
  const isTyping = (element) => element.matches("input:not([type=checkbox]), select, textarea");

  const onClick = (event) => {
    const pressed = event.target.closest(NEAREST);
    if (!pressed || !pressed.matches(PRESSED)) return;
    event.preventDefault();
    event.stopImmediatePropagation();
    early.set(pressed, () => pressed.click());
  };
  // Inputs of a scene send what was typed in them by themselves (fields.js); choices and checks do not.
  const onEdit = (event) => {
    const input = event.target;
    if (input.matches("input[data-field]:not([type=checkbox])")) return;
    early.set(input, () => {
      for (const name of ["input", "change"]) input.dispatchEvent(new Event(name, { bubbles: true }));
    });
  };
  // A shortcut that is pressed again, or held, counts once, as a button does; each step counts.
  const onKey = (event) => {
    const isShortcut = event.key.length === 1 && event.key !== " " && !isTyping(event.target);
    const isStep = isTyping(event.target) && STEPS.includes(event.key);
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (!isShortcut && !isStep) return;
    const { target, key } = event;
    const name = isStep ? `step ${early.size}` : `shortcut ${key}`;
    early.set(name, () => target.dispatchEvent(new window.KeyboardEvent("keydown", { key, bubbles: true, cancelable: true })));
  };

  // Enter in a field sends its form.
  const onSubmit = (event) => {
    if (!event.target.matches("[hx-post], [hx-get]")) return;
    event.preventDefault();
    early.set(event.target, () => event.target.requestSubmit());
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
