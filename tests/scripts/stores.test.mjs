// Tries that waited in the store of before come over: none lost, none doubled, none sent as somebody else's.
import assert from "node:assert/strict";
import { File } from "node:buffer";
import test from "node:test";

import { memoryStore, moveOld } from "../../rapzel/takes/static/takes/stores.js";

globalThis.File ??= File;

/** The store of before: texts under names. */
const oldOf = (lists) => {
  const kept = new Map(Object.entries(lists).map(([name, list]) => [name, typeof list === "string" ? list : JSON.stringify(list)]));
  return { kept, names: () => [...kept.keys()], get: (name) => kept.get(name) ?? null, remove: (name) => kept.delete(name) };
};
const noPicture = async () => null;
const take = (key, more = {}) => ({ key, at: "2027-05-10T09:00:00.000Z", url: "/scenes/3/takes/add/", outcome: "keep", ...more });

test("each comes over to its person and scene, in order; what is no try's stays", async () => {
  const store = memoryStore();
  const old = oldOf({ "rapzel:takes:7:3": [take("a"), take("b")], "rapzel:takes:8:5": [take("c")], "rapzel:groups": "{}" });
  await moveOld(old, noPicture, store);
  const mine = await store.of("7");
  assert.deepEqual(mine.map((each) => [each.key, each.scene]), [["a", "3"], ["b", "3"]]);
  assert.deepEqual((await store.of("8")).map((each) => each.key), ["c"]);
  assert.deepEqual(old.names(), ["rapzel:groups"]);
});

test("with its picture, under its name", async () => {
  const store = memoryStore();
  const old = oldOf({ "rapzel:takes:7:3": [take("a", { picture: "frame.png" })] });
  await moveOld(old, async ({ key }) => (key === "a" ? new Blob(["grey"], { type: "image/png" }) : null), store);
  const [moved] = await store.of("7");
  assert.equal(moved.picture.name, "frame.png");
  assert.equal(await moved.picture.text(), "grey");
});

test("one that came over before is not doubled", async () => {
  const store = memoryStore();
  const lists = { "rapzel:takes:7:3": [take("a"), take("b")] };
  await moveOld(oldOf({ "rapzel:takes:7:3": [take("a")] }), noPicture, store);
  await moveOld(oldOf(lists), noPicture, store);
  assert.deepEqual((await store.of("7")).map((each) => each.key), ["a", "b"]);
});

test("what does not come over stays where it was", async () => {
  const full = { ...memoryStore(), add: () => Promise.reject(new Error("no room")) };
  const old = oldOf({ "rapzel:takes:7:3": [take("a")] });
  await assert.rejects(moveOld(old, noPicture, full));
  assert.deepEqual(old.names(), ["rapzel:takes:7:3"]);
});

test("a spoilt list holds none", async () => {
  const store = memoryStore();
  await moveOld(oldOf({ "rapzel:takes:7:3": "{not json", "rapzel:takes:7:4": '"text"' }), noPicture, store);
  assert.deepEqual(await store.of("7"), []);
});
