// @ts-check
// Elements with the types that a page gives them.

/**
 * The element that an event came from. What comes from the document or the window counts as of the page's root, which
 * matches nothing that anybody asks for.
 * @param {Event} event
 * @returns {HTMLElement}
 */
export const elementOf = (event) => {
  const target = event.target instanceof Element ? event.target : document.documentElement;
  return /** @type {HTMLElement} */ (target);
};

/**
 * An input or a choice by its id; null where the page has none.
 * @param {string} id
 * @returns {HTMLInputElement | null}
 */
export const inputById = (id) => /** @type {HTMLInputElement | null} */ (document.getElementById(id));

/**
 * All elements that a selector finds, of a page or a part of it.
 * @template {Element} [Kind=HTMLElement]
 * @param {string} selector
 * @param {ParentNode} [part]
 * @returns {Kind[]}
 */
export const all = (selector, part = document) => /** @type {Kind[]} */ ([...part.querySelectorAll(selector)]);
