// Forms that answer as one types: the same question is asked once, and again after it got no answer.
import assert from "node:assert/strict";
import test from "node:test";

globalThis.Element = class {};
const { askOnce } = await import("../../rapzel/ui/static/rapzel/asked.js");

class Form extends Element {
  constructor(isMarked = true) {
    super();
    this.isMarked = isMarked;
  }
  matches(selector) {
    return selector === "[data-asks-once]" && this.isMarked;
  }
}

const pageOf = () => {
  const page = new globalThis.EventTarget();
  askOnce(page);
  const tell = (name, target, detail) => {
    const event = new Event(name, { cancelable: true });
    Object.defineProperty(event, "target", { value: target });
    page.dispatchEvent(Object.assign(event, { detail }));
    return !event.defaultPrevented;
  };
  return {
    isAsked: (form, fields) => tell("htmx:beforeRequest", form, { requestConfig: { formData: fields } }),
    answered: (form, successful) => tell("htmx:afterRequest", form, { successful }),
  };
};

test("the same question is not asked again, another one is", () => {
  const [page, form] = [pageOf(), new Form()];
  assert.ok(page.isAsked(form, [["value", "f/11"]]));
  page.answered(form, true);
  assert.ok(!page.isAsked(form, [["value", "f/11"]]));
  assert.ok(page.isAsked(form, [["value", "f/8"]]));
  assert.ok(page.isAsked(form, [["value", "f/11"]]));
});

test("what got no answer is asked again", () => {
  const [page, form] = [pageOf(), new Form()];
  assert.ok(page.isAsked(form, [["value", "f/11"]]));
  page.answered(form, false);
  assert.ok(page.isAsked(form, [["value", "f/11"]]));
});

test("each form has its own question, and a form that is not marked asks what it likes", () => {
  const page = pageOf();
  const fields = [["t", "1/6000"]];
  assert.ok(page.isAsked(new Form(), fields));
  assert.ok(page.isAsked(new Form(), fields));
  const other = new Form(false);
  assert.ok(page.isAsked(other, fields));
  assert.ok(page.isAsked(other, fields));
});
