// Handles that are dragged, and keys that are pressed.
import assert from "node:assert/strict";
import test from "node:test";

import { shortcutOf } from "../../rapzel/ui/static/rapzel/keys.js";
import { gripOf, nearest, textOf } from "../../rapzel/ui/static/rapzel/places.js";

test("along a line only the way along it counts", () => {
  const places = [[0, "1/8"], [10, "1/16"], [20, "1/32"]];
  assert.equal(textOf(nearest(places, { x: 14, y: 900 })), "1/16");
  assert.equal(textOf(nearest(places, { x: -50, y: 0 })), "1/8");
  assert.equal(textOf(nearest(places, { x: 15, y: 0 })), "1/16", "of two that are as near, the first");
});

test("in the plane both count", () => {
  const places = [[0, 0, "near"], [3, 4, "far"]];
  assert.equal(textOf(nearest(places, { x: 3, y: 3 })), "far");
  assert.equal(textOf(nearest(places, { x: 1, y: 1 })), "near");
});

test("a handle is moved by the point that was taken hold of", () => {
  const box = { x: 10, y: 20, width: 8, height: 4 };
  assert.deepEqual(gripOf(box, { x: 11, y: 23 }, "left"), { x: 1, y: 1 });
  assert.deepEqual(gripOf(box, { x: 19, y: 22 }, "right"), { x: 1, y: 0 });
  assert.deepEqual(gripOf(box, { x: 14, y: 22 }, undefined), { x: 0, y: 0 });
});

const press = (values) => ({ key: "k", ctrlKey: false, metaKey: false, altKey: false, ...values });
const page = { isTyping: false, isInDialog: false };

test("a shortcut is a key by itself, outside of fields and dialogs", () => {
  assert.equal(shortcutOf(press({}), page), "k");
  for (const held of ["ctrlKey", "metaKey", "altKey"]) assert.equal(shortcutOf(press({ [held]: true }), page), null);
  assert.equal(shortcutOf(press({}), { ...page, isTyping: true }), null);
  assert.equal(shortcutOf(press({}), { ...page, isInDialog: true }), null);
});
