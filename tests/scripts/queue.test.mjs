// The queue of tries, without a browser: none is lost, none doubled, none sent by two.
import "fake-indexeddb/auto";

import assert from "node:assert/strict";
import { File } from "node:buffer";
import test from "node:test";

import { IDBFactory } from "fake-indexeddb";
import { openDB } from "idb";

import { isUnanswered, queueOf } from "../../rapzel/takes/static/takes/queue.js";
import { bothStores, databaseStore, memoryStore } from "../../rapzel/takes/static/takes/stores.js";

globalThis.File ??= File; // the oldest node that is used here has it in a module only

const URL = "/scenes/1/takes/add/";

/** Both kinds of stores: the browser's database, a new one each time, and the one that lasts as long as a page. */
const STORES = {
  database: () => {
    const factory = new IDBFactory();
    globalThis.indexedDB = factory;
    return databaseStore(openDB);
  },
  memory: async () => memoryStore(),
};

const answer = (status, html = "") => ({ status, ok: status >= 200 && status < 300, text: async () => html });

/** A page with its queue; `answers` are given one after another; a `server` answers by itself. */
const pageWith = ({ store = STORES.database(), answers = [], server = null, user = "7" } = {}) => {
  const sent = [];
  const told = [];
  let count = 0;
  const name = `page-${Math.random()}`;
  const queue = queueOf({
    user,
    store,
    newKey: () => `${name}-${(count += 1)}`,
    now: () => "2027-05-10T09:00:00.000Z",
    tell: (event, detail) => told.push([event, detail]),
    inWords: (html) => html.replace(/<[^>]*>/g, ""),
    post: async (url, body) => {
      sent.push({ url, ...Object.fromEntries(body) });
      if (server) return server(sent.at(-1));
      const next = answers.length ? answers.shift() : answer(200);
      if (next instanceof Error) throw next;
      return next;
    },
  });
  return { queue, sent, told, store };
};

const outcomes = (takes) => takes.map((take) => take.outcome);

test("a try is in the store before it is sent, and leaves it when it is logged", async () => {
  const { queue, sent, told } = pageWith({ answers: [answer(200, "<p>log</p>")] });
  await queue.add("1", URL, { outcome: "keep", note: "guard sharp" });
  assert.equal((await queue.of("1")).length, 1);
  assert.equal(sent.length, 0);
  await queue.sendAll();
  assert.equal(sent[0].note, "guard sharp");
  assert.equal(sent[0].at, "2027-05-10T09:00:00.000Z");
  assert.ok(await queue.isEmpty());
  assert.deepEqual(told.at(-1), ["rapzel:logged", { html: "<p>log</p>", url: URL }]);
});

test("the server is told the words of a try, its key and its time, and nothing of the queue's own", async () => {
  const { queue, sent } = pageWith();
  await queue.add("1", URL, { outcome: "keep", note: "" });
  await queue.sendAll();
  assert.deepEqual(Object.keys(sent[0]).sort(), ["at", "key", "note", "outcome", "url"]);
});

for (const status of [0, 401, 403, 429, 500, 502, 503]) {
  test(`nobody has answered with ${status}: the try stays, and goes later with the same key`, async () => {
    const { queue, sent } = pageWith({ answers: [answer(status)] });
    await queue.add("1", URL, { outcome: "late" });
    await queue.sendAll();
    assert.equal((await queue.of("1")).length, 1);
    await queue.sendAll();
    assert.ok(await queue.isEmpty());
    assert.equal(sent[0].key, sent[1].key);
    assert.ok(isUnanswered(status));
  });
}

test("a lost connection ends the round, in order", async () => {
  const { queue, sent } = pageWith({ answers: [answer(200), new Error("offline")] });
  for (const outcome of ["keep", "early", "late"]) await queue.add("1", URL, { outcome });
  await queue.sendAll();
  assert.deepEqual(outcomes(sent), ["keep", "early"]);
  assert.deepEqual(outcomes(await queue.of("1")), ["early", "late"]);
});

test("what is refused stays with the reason, is not sent again, and holds up nothing", async () => {
  const { queue, sent } = pageWith({ answers: [answer(422, "<p>An outcome is one of …</p>")] });
  await queue.add("1", URL, { outcome: "odd" });
  await queue.add("1", URL, { outcome: "keep" });
  await queue.sendAll();
  const [refused, ...others] = await queue.of("1");
  assert.equal(refused.refused, "An outcome is one of …");
  assert.deepEqual(others, []);
  await queue.sendAll();
  assert.equal(sent.length, 2);
  await queue.forget(refused);
  assert.ok(await queue.isEmpty());
});

test("what a page is sending itself is left to it; another page sends it again with its key", async () => {
  const store = STORES.database();
  const first = pageWith({ store });
  const begun = first.queue.begin("1", URL, { outcome: "early" });
  await first.queue.sendAll();
  assert.equal(first.sent.length, 0);
  const second = pageWith({ store });
  await second.queue.sendAll();
  assert.equal(second.sent[0].key, begun.key);
});

test("a page's own try that nobody answered waits, with its picture", async () => {
  const { queue, sent } = pageWith({ store: STORES.memory() }); // the stand-in for a database knows no files
  const begun = queue.begin("1", URL, { outcome: "early" });
  const file = new File(["grey"], "frame.png", { type: "image/png" });
  assert.equal(await queue.end(begun, 0, file), false);
  assert.equal((await queue.of("1")).length, 1);
  await queue.sendAll();
  assert.equal(sent[0].picture.name, "frame.png");
  assert.ok(await queue.isEmpty());
});

test("a page's own try that was answered is gone, whatever the answer", async () => {
  const { queue } = pageWith();
  for (const status of [200, 422]) {
    const begun = queue.begin("1", URL, { outcome: "early" });
    assert.equal(await queue.end(begun, status, null), true);
    assert.ok(await queue.isEmpty());
  }
});

test("nobody sends another person's tries", async () => {
  const store = STORES.database();
  await pageWith({ store, user: "7" }).queue.add("1", URL, { outcome: "keep" });
  const other = pageWith({ store, user: "70" });
  assert.ok(await other.queue.isEmpty());
  await other.queue.sendAll();
  assert.equal(other.sent.length, 0);
});

test("a try that is added while others are sent goes in the same round", async () => {
  const page = pageWith();
  await page.queue.add("1", URL, { outcome: "keep" });
  const round = page.queue.sendAll();
  await page.queue.add("1", URL, { outcome: "late" });
  await round;
  assert.deepEqual(outcomes(page.sent), ["keep", "late"]);
});

test("two pages that add at the same time lose nothing of each other's", async () => {
  const store = STORES.database();
  const pages = [pageWith({ store }), pageWith({ store })];
  await Promise.all(pages.flatMap(({ queue }) => ["keep", "early", "late"].map((outcome) => queue.add("1", URL, { outcome }))));
  assert.equal((await pages[0].queue.of("1")).length, 6);
});

test("a browser without room keeps a try as long as its page, says so, and sends it", async () => {
  const full = { ...(await STORES.memory()), add: () => Promise.reject(new Error("no room")), of: async () => [] };
  const { queue, sent } = pageWith({ store: Promise.resolve(bothStores(full, memoryStore())) });
  await queue.add("1", URL, { outcome: "keep" });
  const [take] = await queue.of("1");
  assert.ok(take.fleeting);
  await queue.sendAll();
  assert.deepEqual(outcomes(sent), ["keep"]);
  assert.ok(!("fleeting" in sent[0]), "the server is not told of the browser's room");
  assert.ok(await queue.isEmpty());
});

for (const [kind, newStore] of Object.entries(STORES)) {
  test(`at random, ${kind}: every try is logged once, whichever page sends it and whichever answer is lost`, async () => {
    let seed = 20270510;
    const draw = () => (seed = (seed * 1103515245 + 12345) % 2 ** 31) / 2 ** 31;
    for (let round = 0; round < 60; round += 1) {
      const logged = new Map(); // as the server does: a key that is there already is that try
      const server = (body) => {
        if (draw() < 0.3) throw new Error("never arrived");
        if (!logged.has(body.key)) logged.set(body.key, body.outcome);
        if (draw() < 0.3) throw new Error("its answer was lost");
        return answer(200);
      };
      const store = newStore();
      const pages = [pageWith({ store, server }), pageWith({ store, server })];
      const wanted = Array.from({ length: 1 + Math.floor(draw() * 5) }, (_, n) => `try ${n}`);
      await Promise.all(wanted.map((outcome, n) => pages[n % 2].queue.add("1", URL, { outcome })));
      while (!(await pages[0].queue.isEmpty())) await pages[Math.floor(draw() * 2)].queue.sendAll();
      assert.deepEqual([...logged.values()].sort(), wanted);
    }
  });
}
