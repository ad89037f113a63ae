// Tries that wait to be logged. Each goes into the browser's own store first, with a key of its own and its time, and
// leaves it when the server has answered for it: a lost connection loses none, and a lost answer doubles none.
"use strict";

(() => {
  const AGAIN_MS = 5000;
  const user = document.body.dataset.user;
  if (!user) return;
  const prefix = `rapzel:takes:${user}:`;
  const kept = (key) => {
    try {
      return JSON.parse(localStorage.getItem(key)) || [];
    } catch {
      return [];
    }
  };
  const keep = (key, takes) => {
    if (takes.length) localStorage.setItem(key, JSON.stringify(takes));
    else localStorage.removeItem(key);
    document.dispatchEvent(new CustomEvent("rapzel:waiting"));
  };
  const queues = () => Object.keys(localStorage).filter((key) => key.startsWith(prefix));
  const newKey = () => [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, "0")).join("");
  const tell = (name, detail) => document.dispatchEvent(new CustomEvent(name, { detail }));

  // Pictures are too large for the queue's own store; they lie beside it until their try has gone.
  const PICTURES = "rapzel-waiting-pictures";
  const pictureAt = (take) => `/${PICTURES}/${take.key}`;
  const keepPicture = async (take, file) => (await caches.open(PICTURES)).put(pictureAt(take), new Response(file));
  const pictureOf = async (take) => {
    const found = await (await caches.open(PICTURES)).match(pictureAt(take));
    return found ? found.blob() : null;
  };
  const without = (key, take) => {
    const gone = kept(key).find((each) => each.key === take.key);
    if (gone && gone.picture) caches.open(PICTURES).then((pictures) => pictures.delete(pictureAt(gone)));
    keep(key, kept(key).filter((each) => each.key !== take.key));
  };
  const changed = (key, take, values) => keep(key, kept(key).map((each) => (each.key === take.key ? { ...each, ...values } : each)));

  // What a page is sending by itself is left to it; what another page began to send is sent again: its key counts once.
  const page = newKey();
  const waits = (take) => !take.refused && take.flying !== page;

  const OURS = ["url", "refused", "flying", "picture"]; // what the queue itself notes of a try
  const bodyOf = async (take) => {
    const body = new FormData();
    const words = Object.entries(take).filter(([name]) => !OURS.includes(name));
    for (const [name, value] of words) body.append(name, value || "");
    const file = take.picture && (await pictureOf(take));
    if (file) body.append("picture", file, take.picture);
    return body;
  };

  const NOT_ANSWERED = (status) => status === 0 || status >= 500 || [401, 403, 429].includes(status);

  // 200: it is in the log. 4xx but for the door: it will never be, and the reason is told. All else: later again.
  const sendOne = async (key, take) => {
    const answer = await window.rapzelPost(take.url, await bodyOf(take));
    if (answer.status === 401 || answer.status === 403) tell("rapzel:door");
    if (NOT_ANSWERED(answer.status)) return false;
    const html = await answer.text();
    if (answer.ok) {
      without(key, take);
      tell("rapzel:logged", { html, url: take.url });
      return true;
    }
    const told = new DOMParser().parseFromString(html, "text/html").body.textContent.trim().slice(0, 300);
    changed(key, take, { refused: told || "It was refused." });
    return true;
  };

  const sendAll = async () => {
    for (const key of queues()) {
      const next = () => kept(key).find(waits); // read anew each time: another may have been added
      for (let take = next(); take; take = next()) {
        if (!(await sendOne(key, take).catch(() => false))) return;
      }
    }
  };

  // One tab at a time sends; where the browser knows no locks, the keys alone keep a try from being logged twice.
  const send = () => {
    if (!queues().length) return;
    if (navigator.locks) navigator.locks.request("rapzel-takes", { ifAvailable: true }, (lock) => lock && sendAll());
    else sendAll();
  };

  window.rapzelTakes = {
    newKey,
    // A try that nobody is sending yet.
    add(scene, url, words) {
      const key = prefix + scene;
      keep(key, [...kept(key), { ...words, url, key: newKey(), at: new Date().toISOString() }]);
      send();
    },
    // A try that its page sends with these words, of which this is the key and the time.
    begin(scene, url, words) {
      const named = { key: newKey(), at: new Date().toISOString() };
      const key = prefix + scene;
      keep(key, [...kept(key), { ...words, ...named, url, flying: page }]);
      return named;
    },
    // What became of it. True where the server has answered; else it waits from now on, with its picture.
    async end(scene, take, status, file) {
      const key = prefix + scene;
      if (!NOT_ANSWERED(status)) {
        without(key, take);
        return true;
      }
      if (file) await keepPicture(take, file);
      changed(key, take, { flying: "", picture: file ? file.name : "" });
      return false;
    },
    of: (scene) => kept(prefix + scene).filter((take) => take.flying !== page),
    forget: (scene, take) => without(prefix + scene, take),
  };

  document.addEventListener("DOMContentLoaded", send);
  window.addEventListener("online", send);
  document.addEventListener("rapzel:back", send);
  setInterval(send, AGAIN_MS);

  // --- pages that stay usable without a connection: the run sheet and the log of the scenes that were opened -----------

  const KEPT_AFTER_MS = 4000;
  document.addEventListener("DOMContentLoaded", async () => {
    if (!navigator.serviceWorker || !document.body.dataset.worker) return;
    await navigator.serviceWorker.register(document.body.dataset.worker);
    const worker = (await navigator.serviceWorker.ready).active;
    worker.postMessage({ user });
    const opened = document.querySelector("[data-keep]");
    if (!opened) return;
    const pages = JSON.parse(opened.dataset.keep);
    const stamp = `rapzel:kept:${user}:${pages[0]}`;
    if (sessionStorage.getItem(stamp) === opened.dataset.revision) return;
    setTimeout(() => {
      worker.postMessage({ user, keep: pages });
      sessionStorage.setItem(stamp, opened.dataset.revision);
    }, KEPT_AFTER_MS);
  });
})();
