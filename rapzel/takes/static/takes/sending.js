// @ts-check
// Sends the tries that wait in this browser, from whatever page is open; the queue itself is in queue.js.
import { post } from "../rapzel/post.js";
import { openDB } from "../vendor/idb.js";
import { queueOf } from "./queue.js";
import { bothStores, databaseStore, memoryStore, moveOld } from "./stores.js";

const AGAIN_MS = 5000;
const user = document.body.dataset.user || "";

export const newKey = () => [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

// Tries that were kept before there was the database come over first, with their pictures.
const PICTURES = "rapzel-waiting-pictures";
const old = {
  names: () => Object.keys(localStorage),
  get: (/** @type {string} */ name) => localStorage.getItem(name),
  remove: (/** @type {string} */ name) => localStorage.removeItem(name),
};
const oldPicture = async (/** @type {{ key: string }} */ take) => {
  const found = await (await caches.open(PICTURES)).match(`/${PICTURES}/${take.key}`);
  return found ? found.blob() : null;
};
const opened = async () => {
  const spare = memoryStore();
  const store = await databaseStore(openDB).then((database) => bothStores(database, spare), () => spare);
  // One page at a time; what did not come over stays where it is, for the next time.
  const move = () => moveOld(old, oldPicture, store).catch(() => {});
  if (navigator.locks) await navigator.locks.request("rapzel-takes-moving", move);
  else await move();
  return store;
};

export const queue = queueOf({
  user,
  store: opened(),
  post,
  newKey,
  tell: (name, detail) => document.dispatchEvent(new CustomEvent(name, { detail })),
  now: () => new Date().toISOString(),
  inWords: (html) => (new DOMParser().parseFromString(html, "text/html").body.textContent || "").trim().slice(0, 300),
});

// One tab at a time sends; where the browser knows no locks, the keys alone keep a try from being logged twice.
export const send = async () => {
  if (!user || (await queue.isEmpty())) return;
  if (!navigator.locks) await queue.sendAll();
  else await navigator.locks.request("rapzel-takes", { ifAvailable: true }, (lock) => lock && queue.sendAll());
};

document.addEventListener("DOMContentLoaded", send);
window.addEventListener("online", send);
document.addEventListener("rapzel:back", send);
setInterval(send, AGAIN_MS);
