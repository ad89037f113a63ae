// @ts-check
// Keeps run sheets and take logs of opened scenes for a place without network. What is kept belongs to one account:
// it goes when another logs in, or when the log-in page is shown. Everything else goes to the network as ever.
"use strict";

const FILES = "rapzel-files";
const PAGES = "rapzel-pages";
const OWNER = "/rapzel-owner"; // a made-up address under which the account's key is noted among the pages
const KEPT = /^\/scenes\/\d+\/(takes|run-sheet)\/$/;
const PATIENCE_MS = 6000;

/** @type {ServiceWorkerScope} */
const worker = /** @type {any} */ (self); // types of pages do not know where this script runs

worker.addEventListener("install", () => worker.skipWaiting());
worker.addEventListener("activate", (event) => event.waitUntil(worker.clients.claim()));

const ownerOf = async (/** @type {Cache} */ pages) => {
  const noted = await pages.match(OWNER);
  return noted ? noted.text() : null;
};

const belongsTo = async (/** @type {string} */ user) => {
  const pages = await caches.open(PAGES);
  if ((await ownerOf(pages)) === user) return pages;
  await caches.delete(PAGES);
  const fresh = await caches.open(PAGES);
  await fresh.put(OWNER, new Response(user));
  return fresh;
};

const keepable = (/** @type {Response} */ answer) => answer.ok && !answer.redirected && answer.type === "basic";

worker.addEventListener("message", (event) => {
  /** @type {{ user?: string, keep?: string[], forget?: boolean }} */
  const { user, keep, forget } = event.data || {};
  if (forget) event.waitUntil(caches.delete(PAGES));
  if (!user) return;
  event.waitUntil(
    belongsTo(user).then((pages) =>
      Promise.all(
        (keep || []).map(async (address) => {
          const answer = await fetch(address, { credentials: "same-origin" }).catch(() => null);
          if (answer && keepable(answer)) await pages.put(address, answer);
        }),
      ),
    ),
  );
});

const nothingKept = () =>
  new Response(
    '<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width">' +
      "<title>Rapzel</title><body><h1>No connection</h1><p>Run sheets and take logs of the scenes you opened are kept " +
      'in this browser; other pages need Rapzel. What you typed is kept.</p><p><a href="">Try again</a></p></body></html>',
    { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } },
  );

const withPatience = (/** @type {Request} */ request) => {
  /** @type {Promise<Response>} */
  const slow = new Promise((_, give) => setTimeout(() => give(new Error("slow")), PATIENCE_MS));
  return Promise.race([fetch(request), slow]);
};

// What the answer varies by are cookies, which a worker does not see; the pages are one account's anyway.
const found = (/** @type {Cache} */ pages, /** @type {Request} */ request) => pages.match(request.url, { ignoreVary: true });

const page = async (/** @type {Request} */ request) => {
  const pages = await caches.open(PAGES);
  const kept = KEPT.test(new URL(request.url).pathname);
  try {
    const answer = await (kept && (await found(pages, request)) ? withPatience(request) : fetch(request));
    if (kept && keepable(answer) && (await ownerOf(pages))) await pages.put(request.url, answer.clone());
    return answer;
  } catch {
    return (kept && (await found(pages, request))) || nothingKept();
  }
};

// Files carry a hash in their name on a real site; where they do not, the network is asked first.
const file = async (/** @type {Request} */ request) => {
  const files = await caches.open(FILES);
  const hashed = /\.[0-9a-f]{12}\./.test(request.url);
  const kept = await files.match(request);
  if (hashed && kept) return kept;
  try {
    const answer = await fetch(request);
    if (keepable(answer)) await files.put(request, answer.clone());
    return answer;
  } catch (error) {
    if (kept) return kept;
    throw error;
  }
};

worker.addEventListener("fetch", (event) => {
  const { request } = event;
  const address = new URL(request.url);
  if (request.method !== "GET" || address.origin !== self.location.origin) return;
  if (request.mode === "navigate") event.respondWith(page(request));
  else if (address.pathname.startsWith("/static/")) event.respondWith(file(request));
});
