// @ts-check
// Pages that stay usable without a connection: the run sheet and the log of the scenes that were opened.

const KEPT_AFTER_MS = 4000;
document.addEventListener("DOMContentLoaded", async () => {
  const { user, worker: address } = document.body.dataset;
  if (!navigator.serviceWorker || !address) return;
  await navigator.serviceWorker.register(address);
  const worker = (await navigator.serviceWorker.ready).active;
  if (!worker) return;
  worker.postMessage({ user });
  /** @type {HTMLElement | null} */
  const opened = document.querySelector("[data-keep]");
  if (!opened) return;
  const pages = JSON.parse(opened.dataset.keep || "[]");
  const revision = opened.dataset.revision || "";
  const stamp = `rapzel:kept:${user}:${pages[0]}`;
  if (sessionStorage.getItem(stamp) === revision) return;
  setTimeout(() => {
    worker.postMessage({ user, keep: pages });
    sessionStorage.setItem(stamp, revision);
  }, KEPT_AFTER_MS);
});
