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
  const without = (key, take) => keep(key, kept(key).filter((each) => each.key !== take.key));
  const tell = (name, detail) => document.dispatchEvent(new CustomEvent(name, { detail }));

  // 200: it is in the log. 4xx but for the door: it will never be, and the reason is told. All else: later again.
  const sendOne = async (key, take) => {
    const body = new URLSearchParams({ key: take.key, outcome: take.outcome, changed: take.changed, note: take.note, at: take.at, off: take.off || "" });
    const answer = await window.rapzelPost(take.url, body);
    if (answer.status === 401 || answer.status === 403) {
      tell("rapzel:door");
      return false;
    }
    if (answer.status >= 500 || answer.status === 429) return false;
    const html = await answer.text();
    if (answer.ok) {
      without(key, take);
      tell("rapzel:logged", { html, scene: key.slice(prefix.length) });
      return true;
    }
    const told = new DOMParser().parseFromString(html, "text/html").body.textContent.trim().slice(0, 300);
    keep(key, kept(key).map((each) => (each.key === take.key ? { ...each, refused: told || "It was refused." } : each)));
    return true;
  };

  const sendAll = async () => {
    for (const key of queues()) {
      const next = () => kept(key).find((take) => !take.refused); // read anew each time: another may have been added
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

  const newKey = () => [...crypto.getRandomValues(new Uint8Array(12))].map((byte) => byte.toString(16).padStart(2, "0")).join("");

  window.rapzelTakes = {
    add(scene, url, words) {
      const key = prefix + scene;
      keep(key, [...kept(key), { ...words, url, key: newKey(), at: new Date().toISOString() }]);
      send();
    },
    of: (scene) => kept(prefix + scene),
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
