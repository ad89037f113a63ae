// Sends the tries that wait in this browser, from whatever page is open; the queue itself is in queue.js.
import { post } from "../rapzel/post.js";
import { queueOf } from "./queue.js";

const AGAIN_MS = 5000;
const user = document.body.dataset.user;

export const newKey = () => [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

const store = {
  get: (name) => localStorage.getItem(name),
  set: (name, text) => localStorage.setItem(name, text),
  remove: (name) => localStorage.removeItem(name),
  names: () => Object.keys(localStorage),
};

const PICTURES = "rapzel-waiting-pictures";
const addressOf = (take) => `/${PICTURES}/${take.key}`;
const pictures = {
  keep: async (take, file) => (await caches.open(PICTURES)).put(addressOf(take), new Response(file)),
  of: async (take) => {
    const found = await (await caches.open(PICTURES)).match(addressOf(take));
    return found ? found.blob() : null;
  },
  remove: async (take) => (await caches.open(PICTURES)).delete(addressOf(take)),
};

export const queue = queueOf({
  user,
  store,
  pictures,
  post,
  newKey,
  tell: (name, detail) => document.dispatchEvent(new CustomEvent(name, { detail })),
  now: () => new Date().toISOString(),
  inWords: (html) => new DOMParser().parseFromString(html, "text/html").body.textContent.trim().slice(0, 300),
});

// One tab at a time sends; where the browser knows no locks, the keys alone keep a try from being logged twice.
export const send = () => {
  if (!user || queue.isEmpty()) return;
  if (navigator.locks) navigator.locks.request("rapzel-takes", { ifAvailable: true }, (lock) => lock && queue.sendAll());
  else queue.sendAll();
};

document.addEventListener("DOMContentLoaded", send);
window.addEventListener("online", send);
document.addEventListener("rapzel:back", send);
setInterval(send, AGAIN_MS);
