// Drafts of inputs: nothing that was typed is lost, and nothing that arrived is offered again.
import assert from "node:assert/strict";
import test from "node:test";

import { draftsOf, fateOf } from "../../rapzel/workbench/static/workbench/drafts.js";

const storeOf = (kept = new Map()) => ({
  get: (name) => kept.get(name) ?? null,
  set: (name, text) => kept.set(name, text),
  remove: (name) => kept.delete(name),
  names: () => [...kept.keys()],
});

test("drafts are of one scene", () => {
  const store = storeOf();
  const [one, other] = [draftsOf(store, "1"), draftsOf(store, "11")];
  one.keep("f-iso", { typed: "800", over: "400", sent: false });
  assert.deepEqual(one.ids(), ["f-iso"]);
  assert.deepEqual(other.ids(), []);
  assert.equal(one.of("f-iso").typed, "800");
  one.drop("f-iso");
  assert.deepEqual(one.ids(), []);
});

test("what is no draft counts as none", () => {
  const store = storeOf();
  const drafts = draftsOf(store, "1");
  for (const text of ["{", "null", "3", '{"typed": 3}']) {
    store.set("rapzel:draft:1:f-iso", text);
    assert.equal(drafts.of("f-iso"), null);
  }
});

const draft = (values) => ({ typed: "800", over: "400", sent: false, ...values });

for (const [says, given, text, fate] of [
  ["typed over what still stands there", draft(), "400", "offered"],
  ["sent, and never arrived", draft({ sent: true }), "400", "offered"],
  ["the value says it already", draft(), "800", "over"],
  ["sent, and read in other words", draft({ typed: "8h", sent: true }), "800", "over"],
  ["changed by another tab meanwhile", draft(), "200", "told"],
  ["its input is gone", draft(), null, "over"],
  ["no draft", null, "400", "over"],
]) {
  test(`after a reload: ${says}`, () => assert.equal(fateOf(given, text), fate));
}
