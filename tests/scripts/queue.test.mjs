// The queue of tries, without a browser: none is lost, none doubled, none sent by two.
import assert from "node:assert/strict";
import { File } from "node:buffer";
import test from "node:test";

import { isUnanswered, queueOf } from "../../rapzel/takes/static/takes/queue.js";

const URL = "/scenes/1/takes/add/";

/** A browser's store of one person, which several pages share. */
const storeOf = (kept = new Map()) => ({
  kept,
  get: (name) => kept.get(name) ?? null,
  set: (name, text) => kept.set(name, text),
  remove: (name) => kept.delete(name),
  names: () => [...kept.keys()],
});

const picturesOf = () => {
  const files = new Map();
  return {
    files,
    keep: async (take, file) => files.set(take.key, file),
    of: async (take) => files.get(take.key) ?? null,
    remove: async (take) => files.delete(take.key),
  };
};

const answer = (status, html = "") => ({ status, ok: status >= 200 && status < 300, text: async () => html });

/** A page with its queue; `answers` are given one after another; a `server` answers by itself. */
const pageWith = ({ store = storeOf(), pictures = picturesOf(), answers = [], server = null, user = "7" } = {}) => {
  const sent = [];
  const told = [];
  let count = 0;
  const name = `page-${Math.random()}`;
  const queue = queueOf({
    user,
    store,
    pictures,
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
  return { queue, sent, told, store, pictures };
};

test("a try is in the store before it is sent, and leaves it when it is logged", async () => {
  const { queue, sent, told, store } = pageWith({ answers: [answer(200, "<p>log</p>")] });
  queue.add("1", URL, { outcome: "keep", note: "guard sharp" });
  assert.equal(queue.of("1").length, 1);
  assert.equal(sent.length, 0);
  await queue.sendAll();
  assert.equal(sent[0].note, "guard sharp");
  assert.equal(sent[0].at, "2027-05-10T09:00:00.000Z");
  assert.deepEqual(queue.of("1"), []);
  assert.equal(store.kept.size, 0);
  assert.deepEqual(told.at(-1), ["rapzel:logged", { html: "<p>log</p>", url: URL }]);
});

for (const status of [0, 401, 403, 429, 500, 502, 503]) {
  test(`nobody has answered with ${status}: the try stays, and goes later with the same key`, async () => {
    const { queue, sent } = pageWith({ answers: [answer(status)] });
    queue.add("1", URL, { outcome: "late" });
    await queue.sendAll();
    assert.equal(queue.of("1").length, 1);
    await queue.sendAll();
    assert.deepEqual(queue.of("1"), []);
    assert.equal(sent[0].key, sent[1].key);
    assert.ok(isUnanswered(status));
  });
}

test("a lost connection ends the round, in order", async () => {
  const { queue, sent } = pageWith({ answers: [answer(200), new Error("offline")] });
  for (const outcome of ["keep", "early", "late"]) queue.add("1", URL, { outcome });
  await queue.sendAll();
  assert.deepEqual(sent.map((each) => each.outcome), ["keep", "early"]);
  assert.deepEqual(queue.of("1").map((each) => each.outcome), ["early", "late"]);
});

test("what is refused stays with the reason, is not sent again, and holds up nothing", async () => {
  const { queue, sent } = pageWith({ answers: [answer(422, "<p>An outcome is one of …</p>")] });
  queue.add("1", URL, { outcome: "odd" });
  queue.add("1", URL, { outcome: "keep" });
  await queue.sendAll();
  const [refused, ...others] = queue.of("1");
  assert.equal(refused.refused, "An outcome is one of …");
  assert.deepEqual(others, []);
  await queue.sendAll();
  assert.equal(sent.length, 2);
  queue.forget("1", refused);
  assert.deepEqual(queue.of("1"), []);
});

test("what a page is sending itself is left to it; another page sends it again with its key", async () => {
  const store = storeOf();
  const first = pageWith({ store });
  const named = first.queue.begin("1", URL, { outcome: "early" });
  await first.queue.sendAll();
  assert.equal(first.sent.length, 0);
  const second = pageWith({ store });
  await second.queue.sendAll();
  assert.equal(second.sent[0].key, named.key);
});

test("a page's own try that nobody answered waits, with its picture", async () => {
  const { queue, sent, pictures } = pageWith();
  const named = queue.begin("1", URL, { outcome: "early" });
  const file = new File(["grey"], "frame.png", { type: "image/png" });
  assert.equal(await queue.end("1", named, 0, file), false);
  assert.equal(queue.of("1").length, 1);
  await queue.sendAll();
  assert.equal(sent[0].picture.name, "frame.png");
  assert.deepEqual(queue.of("1"), []);
  await Promise.resolve();
  assert.equal(pictures.files.size, 0);
});

test("a page's own try that was answered is gone, whatever the answer", async () => {
  const { queue } = pageWith();
  for (const status of [200, 422]) {
    const named = queue.begin("1", URL, { outcome: "early" });
    assert.equal(await queue.end("1", named, status, null), true);
    assert.deepEqual(queue.of("1"), []);
  }
});

test("nobody sends another person's tries, and a spoilt store holds none", async () => {
  const store = storeOf();
  pageWith({ store, user: "7" }).queue.add("1", URL, { outcome: "keep" });
  const other = pageWith({ store, user: "70" });
  assert.ok(other.queue.isEmpty());
  await other.queue.sendAll();
  assert.equal(other.sent.length, 0);
  store.set("rapzel:takes:70:2", "{not json");
  assert.deepEqual(other.queue.of("2"), []);
  await other.queue.sendAll();
});

test("a try that is added while others are sent goes in the same round", async () => {
  const page = pageWith();
  page.queue.add("1", URL, { outcome: "keep" });
  const round = page.queue.sendAll();
  page.queue.add("1", URL, { outcome: "late" });
  await round;
  assert.deepEqual(page.sent.map((each) => each.outcome), ["keep", "late"]);
});

test("at random: every try is logged once, whichever page sends it and whichever answer is lost", async () => {
  let seed = 20270510;
  const draw = () => (seed = (seed * 1103515245 + 12345) % 2 ** 31) / 2 ** 31;
  for (let round = 0; round < 200; round += 1) {
    const logged = new Map(); // as the server does: a key that is there already is that try
    const server = (body) => {
      if (draw() < 0.3) throw new Error("never arrived");
      if (!logged.has(body.key)) logged.set(body.key, body.outcome);
      if (draw() < 0.3) throw new Error("its answer was lost");
      return answer(200);
    };
    const store = storeOf();
    const pages = [pageWith({ store, server }), pageWith({ store, server })];
    const wanted = Array.from({ length: 1 + Math.floor(draw() * 5) }, (_, n) => `try ${n}`);
    wanted.forEach((outcome, n) => pages[n % 2].queue.add("1", URL, { outcome }));
    while (!pages[0].queue.isEmpty()) await pages[Math.floor(draw() * 2)].queue.sendAll();
    assert.deepEqual([...logged.values()].sort(), wanted);
  }
});
