// @ts-check
// What was typed and not acknowledged, with the value that it was typed over. A draft is offered after a reload, never
// sent by itself; where the value has changed since, it is told and can only be forgotten.

/**
 * @typedef {{ typed: string, over: string | undefined, sent: boolean }} Draft
 * @typedef {{ get: (name: string) => string | null, set: (name: string, text: string) => void,
 *   remove: (name: string) => void, names: () => string[] }} Store
 */

/**
 * The drafts of one scene.
 * @param {Store} store
 * @param {string} scene
 */
export const draftsOf = (store, scene) => {
  const prefix = `rapzel:draft:${scene}:`;
  return {
    keep: (/** @type {string} */ id, /** @type {Draft} */ draft) => store.set(prefix + id, JSON.stringify(draft)),
    drop: (/** @type {string} */ id) => store.remove(prefix + id),
    /** The ids of all inputs that have one. */
    ids: () =>
      store
        .names()
        .filter((name) => name.startsWith(prefix))
        .map((name) => name.slice(prefix.length)),
    /** @returns {Draft | null} what is no draft counts as none */
    of(/** @type {string} */ id) {
      try {
        const draft = JSON.parse(store.get(prefix + id) || "null");
        return draft && typeof draft.typed === "string" ? draft : null;
      } catch {
        return null;
      }
    },
  };
};

/**
 * What becomes of a draft on a page that was loaded again: "over" where it arrived, or where nothing is left to offer;
 * "offered" where the value is still the one that it was typed over; else "told".
 * @param {Draft | null} draft
 * @param {string | null | undefined} text what the input shows now; null where there is no such input any more
 * @returns {"over" | "offered" | "told"}
 */
export const fateOf = (draft, text) => {
  if (draft === null || text === null || text === undefined) return "over";
  if (draft.typed === text) return "over";
  if (draft.over === text) return "offered";
  return draft.sent ? "over" : "told"; // it was sent, and the value has changed: it arrived
};
