// @ts-check
// The rehearsal beside the inputs. While the scene is still being changed, a draft with a quarter of the pixels is
// asked for; the whole picture comes when the scene rests. Which of the two is known, not guessed from pauses: a key,
// a slider or a handle is held, a change is on its way to the server, or the last picture has not come yet. So drafts
// come where answers are slow, which is where they are needed most.
import { all, elementOf } from "../rapzel/dom.js";
import { isDragging } from "../rapzel/drag.js";

/** @typedef {{ fingerprint: string, draft: boolean }} Which a picture: of what scene, and how fine */

const picture = () => /** @type {HTMLImageElement} */ (document.getElementById("rehearsal"));
const says = () => document.getElementById("rehearsal-says")?.textContent || "";
const addressOf = (/** @type {string} */ fingerprint, /** @type {boolean} */ draft) =>
  `${picture().dataset.url}?v=${fingerprint}${draft ? "&draft=1" : ""}`;

let newest = ""; // fingerprint of the scene as the server last answered it; none before the first change
let last = { fingerprint: "", draft: false, shown: true }; // the picture that was last asked for and answered
/** @type {(Which & { loader: HTMLImageElement }) | null} the picture that is on its way */
let coming = null;
let held = false; // a stepping key or a slider is held down
/** @type {Set<XMLHttpRequest>} */
const changes = new Set(); // requests on their way that change the scene

const restless = () => held || changes.size > 0 || isDragging();

/** The close-ups at three speeds, which are one picture; the browser fetches it once. */
const showSpeeds = (/** @type {string} */ fingerprint) => {
  const list = document.getElementById("speeds");
  /** @type {HTMLImageElement[]} */
  const closeUps = list ? all(".close-up", list) : [];
  for (const one of closeUps) one.src = `${list?.dataset.url}?v=${fingerprint}`;
};

const arrived = (/** @type {Which} */ which, /** @type {boolean} */ shown) => {
  if (coming !== which) return; // it was given up
  coming = null;
  last = { fingerprint: which.fingerprint, draft: which.draft, shown };
  if (shown) picture().src = addressOf(which.fingerprint, which.draft);
  if (shown && !which.draft) showSpeeds(which.fingerprint);
  if (shown && which.fingerprint === newest) picture().alt = `Rehearsal: ${says()}`;
  look();
};

const load = (/** @type {string} */ fingerprint, /** @type {boolean} */ draft) => {
  const loader = new Image();
  const which = { fingerprint, draft, loader };
  coming = which;
  loader.onload = () => arrived(which, true);
  loader.onerror = () => arrived(which, false); // the old one stays, dimmed; the next change asks again
  loader.src = addressOf(fingerprint, draft);
};

// A draft that is under way is let come, or a slow server would never show one. A whole picture of a scene that has
// changed since is given up: pictures take longer than changes here, so a draft is next.
const giveUp = () => {
  const loader = coming?.loader;
  coming = null;
  if (loader) loader.src = "";
};

// Asks for what is to be seen next. Called whenever something that it goes by has changed.
const look = () => {
  if (!newest) return;
  const answered = last.fingerprint === newest;
  picture().parentElement?.classList.toggle("waiting", !(answered && last.shown));
  const overtaken = coming !== null && !coming.draft && coming.fingerprint !== newest;
  if (coming && !overtaken) return;
  if (overtaken) giveUp();
  if (!answered) load(newest, restless() || overtaken);
  else if (last.draft && !restless()) load(newest, false);
};

// Not before the answer that tells of it has been dealt with to its end: its own request counts until then, and the
// one that waited behind it is sent.
const soon = () => window.queueMicrotask(look);

document.addEventListener("DOMContentLoaded", () => {
  if (picture()) last.fingerprint = new URL(picture().src).searchParams.get("v") || "";
});
document.addEventListener("rapzel:changed", (event) => {
  newest = event.detail.rehearsal;
  soon();
});

// --- what is held, and what is on its way ----------------------------------------------------------------------------

const release = () => {
  held = false;
  look();
};
document.addEventListener("keydown", (event) => {
  if (elementOf(event).matches("[data-step]") && ["ArrowUp", "ArrowDown"].includes(event.key)) held = true;
});
document.addEventListener("pointerdown", (event) => {
  if (elementOf(event).matches("[data-slides]")) held = true;
});
for (const name of ["keyup", "pointerup", "pointercancel"]) document.addEventListener(name, release);
window.addEventListener("blur", release); // a key that is let go elsewhere is never told of

const isChange = (/** @type {HtmxEvent} */ event) =>
  event.detail.requestConfig.verb === "post" && elementOf(event).closest(".workbench") !== null;
document.addEventListener("htmx:beforeRequest", (event) => {
  if (isChange(event)) changes.add(event.detail.xhr);
});
document.addEventListener("htmx:afterRequest", (event) => {
  changes.delete(event.detail.xhr);
  if (!event.detail.successful) soon(); // no answer follows that would say how the scene stands
});
