// Pages that stay usable without a connection: the run sheet and the log of the scenes that were opened.

const KEPT_AFTER_MS = 4000;
document.addEventListener("DOMContentLoaded", async () => {
  const { user, worker: address } = document.body.dataset;
  if (!navigator.serviceWorker || !address) return;
  await navigator.serviceWorker.register(address);
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
