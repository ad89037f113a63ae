// @ts-check
// The inputs of the workbench in the browser. What is typed belongs to the person until the server has acknowledged it:
// nothing restores it meanwhile, a send that fails is repeated from this page, and after a reload it is only offered.
import { all, elementOf, inputById } from "../rapzel/dom.js";
import { draftsOf, fateOf } from "./drafts.js";

/**
 * An input, a choice or a check box that writes to a place of the scene.
 * @typedef {HTMLInputElement} Field
 * @typedef {import("./drafts.js").Draft} Draft
 */

const AGAIN_MS = 3000;
const root = () => /** @type {HTMLElement} */ (document.querySelector(".workbench"));
/** @returns {Field[]} */
const fields = () => all("[data-field]");
const isText = (/** @type {Element} */ input) => input.matches("input:not([type=checkbox])");
/**
 * @param {Element | null} element
 * @returns {element is Field}
 */
const isField = (element) => element !== null && element.matches("[data-field]");
/** The field that an event is about; null where it is about something else. */
const fieldOf = (/** @type {Event} */ event) => {
  const element = elementOf(event);
  return isField(element) ? element : null;
};
/** Beside a field: `e` for what is wrong with it, `d` for a draft that is offered. */
const slotOf = (/** @type {Field} */ input, /** @type {"e" | "d"} */ letter) =>
  document.getElementById(input.id.replace(/^f-/, `${letter}-`));
const typed = (/** @type {Field} */ input) => {
  if (input.type !== "checkbox") return input.value;
  return input.checked ? "1" : "0";
};
const isDirty = (/** @type {Field} */ input) => input.dataset.dirty === "1";

// Each edit of an input has a number, as the same text may be typed twice with something else in between.
/** @type {Record<string, number>} */
const edits = {};
const editOf = (/** @type {Field} */ input) => edits[input.id] || 0;
const markDirty = (/** @type {Field} */ input) => {
  input.dataset.dirty = "1";
  edits[input.id] = editOf(input) + 1;
};
// The field whose change is under way, its id and the edit that the request tells of. Changes go one at a time.
/** @type {{ id: string, edit: number, xhr: XMLHttpRequest } | null} */
let asked = null;
const isAcknowledged = (/** @type {Field} */ input) => asked !== null && asked.id === input.id && asked.edit === editOf(input);
// The steps of an input that wait for their answers, each as the edit that was there when its key was pressed.
/** @type {WeakMap<Field, number[]>} */
const steps = new WeakMap();
const stepsOf = (/** @type {Field} */ input) => steps.get(input) || [];

const isAllMarked = (/** @type {Field} */ input) =>
  input.value !== "" && input.selectionStart === 0 && input.selectionEnd === input.value.length;
const show = (/** @type {Field} */ input, /** @type {string} */ text) => {
  if (input.type === "checkbox") {
    input.checked = text === "1";
  } else if (input.value !== text) {
    // What is marked is about to be typed over; a value that comes in between must not unmark it.
    const isMarked = input === document.activeElement && isText(input) && isAllMarked(input);
    input.value = text;
    if (isMarked) input.select();
  }
};
const say = (/** @type {Field} */ input, /** @type {string} */ text) => {
  const slot = slotOf(input, "e");
  if (slot) slot.textContent = text;
};
const send = (/** @type {Field} */ input) => htmx.trigger(input, isText(input) ? "commit" : "change");

// --- drafts: what was typed and not acknowledged, with the value that it was typed over ---------------------------

const drafts = draftsOf(
  {
    get: (name) => localStorage.getItem(name),
    set: (name, text) => localStorage.setItem(name, text),
    remove: (name) => localStorage.removeItem(name),
    names: () => Object.keys(localStorage),
  },
  root().dataset.scene || ""
);
const keepDraft = (/** @type {Field} */ input, /** @type {boolean} */ sent) => {
  if (isText(input)) drafts.keep(input.id, { typed: input.value, over: input.dataset.text, sent });
};

const settle = (/** @type {Field} */ input) => {
  delete input.dataset.dirty;
  delete input.dataset.waiting;
  input.removeAttribute("aria-invalid");
  say(input, "");
  drafts.drop(input.id);
  const offer = slotOf(input, "d");
  if (offer) offer.replaceChildren();
};

const button = (/** @type {string} */ words, /** @type {() => void} */ action) => {
  const made = document.createElement("button");
  made.type = "button";
  made.className = "link";
  made.textContent = words;
  made.addEventListener("click", action);
  return made;
};

// A draft is offered, never sent by itself; where the value has changed since, it is told and can only be forgotten.
const offerDraft = (/** @type {Field} */ input, /** @type {Draft} */ draft, /** @type {"offered" | "told"} */ fate) => {
  const slot = slotOf(input, "d");
  if (!slot) return;
  const forget = button("Forget it", () => {
    drafts.drop(input.id);
    slot.replaceChildren();
  });
  if (fate === "told") {
    slot.replaceChildren(`You had typed “${draft.typed}”; the value has changed since. `, forget);
    return;
  }
  const use = button("Use it", () => {
    slot.replaceChildren();
    show(input, draft.typed);
    markDirty(input);
    input.focus();
    send(input);
  });
  slot.replaceChildren(`You had typed “${draft.typed}”. `, use, " ", forget);
};

document.addEventListener("DOMContentLoaded", () => {
  for (const id of drafts.ids()) {
    const input = inputById(id);
    const draft = drafts.of(id);
    const fate = fateOf(draft, input && input.dataset.text);
    if (fate === "over" || input === null || draft === null) drafts.drop(id);
    else offerDraft(input, draft, fate);
  }
  // What was typed while the scripts were still on their way is typed like anything else.
  for (const input of fields().filter((each) => isText(each) && each.value !== each.defaultValue)) {
    markDirty(input);
    keepDraft(input, false);
    send(input);
  }
});

// --- typing and sending --------------------------------------------------------------------------------------------

// A handle that is dragged writes into an input, too, and tells of it by an event of its own.
for (const name of ["input", "rapzel:edit"]) {
  document.addEventListener(name, (event) => {
    const input = fieldOf(event);
    if (!input) return;
    markDirty(input);
    keepDraft(input, false);
  });
}
// A choice or a check is an edit already by its input event; by now its request may have left. Leaving a text input
// tells of a change, too; what was typed in it may have been acknowledged by then.
document.addEventListener("change", (event) => {
  const input = fieldOf(event);
  if (input && !isText(input)) input.dataset.dirty = "1";
});

document.addEventListener("htmx:configRequest", (event) => {
  if (!root() || !root().contains(elementOf(event))) return;
  const input = fieldOf(event);
  const isOwn = input !== null && event.detail.path === input.getAttribute("hx-post");
  if (isOwn && isText(input)) {
    // What waited in the queue behind its own acknowledgement is not said twice: it would undo an undo made since.
    const isSaid = !isDirty(input);
    // What was typed after a step goes after it: that edit has a request of its own, further back in the queue.
    const isEarly = stepsOf(input).some((edit) => edit < editOf(input));
    if (isSaid || isEarly) {
      event.preventDefault();
      return;
    }
  }
  event.detail.parameters.revision = root().dataset.revision;
  if (root().dataset.page) event.detail.parameters.on = root().dataset.page;
  if (input && input.type === "checkbox") event.detail.parameters.value = typed(input);
});

// A step tells of the edit that was there when its key was pressed, which may be long before it leaves: on a slow server
// it waits in the queue, and what is typed meanwhile is not in it.
const isStep = (/** @type {HtmxEvent} */ event) => event.detail.requestConfig.parameters.edit !== undefined;
const isQuestion = (/** @type {HtmxEvent} */ event) => event.detail.requestConfig.verb === "get"; // several may go beside a change
document.addEventListener("htmx:beforeRequest", (event) => {
  const input = fieldOf(event);
  if (isQuestion(event) || !input) return;
  const edit = isStep(event) ? Number(event.detail.requestConfig.parameters.edit) : editOf(input);
  asked = { id: input.id, edit, xhr: event.detail.xhr };
  if (isDirty(input) && isAcknowledged(input)) keepDraft(input, true);
});

document.addEventListener("htmx:afterRequest", (event) => {
  if (asked && asked.xhr === event.detail.xhr) asked = null;
  const input = fieldOf(event);
  if (input && isStep(event)) stepsOf(input).shift();
});

// Told before the next request of the queue leaves; what was sent and is still what the input says is acknowledged.
document.addEventListener("rapzel:revision", (event) => {
  root().dataset.revision = event.detail.revision;
  const input = asked && inputById(asked.id);
  if (isField(input) && isAcknowledged(input)) settle(input);
});

document.addEventListener("rapzel:changed", (event) => {
  for (const [key, text] of Object.entries(event.detail.fields)) {
    const each = inputById(`f-${key}`);
    if (!isField(each)) continue;
    each.dataset.text = text;
    // A stepped value is shown even where one is typing, unless something newer than the step has been typed.
    const isForced = key === event.detail.forced && (!isDirty(each) || isAcknowledged(each));
    if (isForced) settle(each);
    const editing = each === document.activeElement && isText(each) && !isForced;
    if (!editing && !isDirty(each)) show(each, text);
  }
});

document.addEventListener("rapzel:refused", (event) => {
  const input = inputById(`f-${event.detail.key}`);
  if (!isField(input)) return;
  delete input.dataset.waiting;
  if (isText(input)) {
    input.setAttribute("aria-invalid", "true");
    keepDraft(input, false);
  } else {
    delete input.dataset.dirty;
    show(input, input.dataset.text || "");
  }
});

// Leaving an input shows its value as Rapzel understood it, once that is known; Escape leaves it.
document.addEventListener("focusout", (event) => {
  const input = fieldOf(event);
  if (input && isText(input) && !isDirty(input)) show(input, input.dataset.text || "");
});
document.addEventListener("keydown", (event) => {
  const input = fieldOf(event);
  if (event.key === "Escape" && input) input.blur();
});

// --- a send that failed: the field stays as it was left, and is sent again -----------------------------------------

const WORDS = {
  offline: "Not saved yet: no answer from Rapzel. It is kept here and tried again.",
  door: "Not saved yet: you are logged out. Log in again; it is kept here.",
};

const failed = (/** @type {Event} */ event, /** @type {keyof WORDS} */ why) => {
  const input = fieldOf(event);
  if (!input || !document.contains(input)) return;
  input.dataset.dirty = "1";
  input.dataset.waiting = why;
  keepDraft(input, false);
  say(input, WORDS[why]);
};
document.addEventListener("htmx:sendError", (event) => failed(event, "offline"));
document.addEventListener("htmx:timeout", (event) => failed(event, "offline"));
document.addEventListener("htmx:responseError", (event) => {
  const { status } = event.detail.xhr;
  if (status >= 500) failed(event, "offline");
  else if (status === 401 || status === 403) failed(event, "door");
});

/** Sends what waits for that reason; without one, all that waits. */
const sendWaiting = (/** @type {keyof WORDS | undefined} */ why = undefined) => {
  for (const input of fields()) {
    if (input.dataset.waiting && (!why || input.dataset.waiting === why)) send(input);
  }
};
setInterval(() => sendWaiting("offline"), AGAIN_MS);
window.addEventListener("online", () => sendWaiting());
document.addEventListener("rapzel:back", () => sendWaiting());

// --- inputs made anew: what is being typed, its caret, and what was refused stay ------------------------------------

/**
 * @typedef {{ input: Field, typed: string, waiting: string | undefined, refused: string | null, says: string }} Kept
 * @type {{ kept: Kept[], active: string, caret: [number, number] | null, inAnswer: boolean } | null}
 */
let held = null;

const hold = () => {
  const active = document.activeElement;
  const kept = fields()
    .filter((input) => isDirty(input) && !isAcknowledged(input))
    .map((input) => ({
      input,
      typed: typed(input),
      waiting: input.dataset.waiting,
      refused: input.getAttribute("aria-invalid"),
      says: slotOf(input, "e")?.textContent || "",
    }));
  /** @type {[number, number] | null} */
  const caret = isField(active) && isText(active) ? [active.selectionStart || 0, active.selectionEnd || 0] : null;
  held = { kept, active: active ? active.id : "", caret, inAnswer: Boolean(active && active.closest("#answer")) };
};

const release = () => {
  if (!held) return;
  const { kept, active, caret, inAnswer } = held;
  held = null;
  for (const each of kept) {
    const input = inputById(each.input.id);
    if (!isField(input) || input === each.input) continue; // gone, or never replaced
    show(input, each.typed);
    input.dataset.dirty = "1";
    if (each.waiting) input.dataset.waiting = each.waiting;
    if (each.refused) input.setAttribute("aria-invalid", each.refused);
    say(input, each.says);
    if (!each.waiting && !each.refused) send(input);
  }
  // Whoever has moved on while the answer was put into the page stays where they went.
  if (document.activeElement && document.activeElement !== document.body) return;
  const again = inputById(active) || (inAnswer ? inputById("answer") : null);
  if (!again) return;
  again.focus({ preventScroll: true });
  if (caret && isText(again)) again.setSelectionRange(...caret);
};

document.addEventListener("htmx:beforeSwap", (event) => {
  if (root() && root().contains(elementOf(event))) hold();
});
// Folded groups open as soon as the inputs are in the page; only then can one of them be focused.
document.addEventListener("htmx:afterSettle", () => setTimeout(release));

// --- arrow keys step by a third of a stop ----------------------------------------------------------------------------

/** @type {Record<string, number>} */
const steppedFrom = {}; // by an input's id, the edit that a step has started from

/** One natural step of an input, up or down; the server knows how large it is. */
const step = (/** @type {Field} */ input, /** @type {string} */ direction) => {
  // Several quick presses step on from the stored value: only the first after an edit starts from what was typed.
  const isNew = isDirty(input) && steppedFrom[input.id] !== editOf(input);
  steppedFrom[input.id] = editOf(input);
  steps.set(input, [...stepsOf(input), editOf(input)]);
  htmx.ajax("POST", root().dataset.stepUrl || "", {
    source: input,
    target: "#answer",
    values: {
      direction,
      typed: isNew ? input.value : "",
      edit: editOf(input),
    },
  });
};

document.addEventListener("keydown", (event) => {
  const input = fieldOf(event);
  if (!input || !input.matches("[data-step]") || !["ArrowUp", "ArrowDown"].includes(event.key)) return;
  event.preventDefault();
  step(input, event.key === "ArrowUp" ? "up" : "down");
});

// The same by the thumb: − and + beside the input, which keeps the focus that it has.
const stepperOf = (/** @type {Event} */ event) => /** @type {HTMLElement | null} */ (elementOf(event).closest("[data-steps]"));
document.addEventListener("pointerdown", (event) => {
  if (stepperOf(event)) event.preventDefault();
});
document.addEventListener("click", (event) => {
  const stepper = stepperOf(event);
  const input = stepper && inputById(stepper.dataset.steps || "");
  if (stepper && input) step(input, stepper.dataset.direction || "up");
});
