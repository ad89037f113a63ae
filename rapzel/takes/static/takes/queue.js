// @ts-check
// Tries that wait to be logged. Each goes into the store first, with a key of its own and its time, and leaves it when
// the server has answered for it: a lost connection loses none, and a lost answer doubles none.

/**
 * @typedef {import("./stores.js").Take} Take
 * @typedef {import("./stores.js").Store} Store
 * @typedef {{ status: number, ok: boolean, text: () => Promise<string> }} Answer
 * @typedef {{ key: string, at: string }} Named a try's own key and its time
 *
 * @typedef {object} Means
 * @property {string} user whose tries they are
 * @property {Promise<Store>} store
 * @property {(url: string, body: FormData) => Promise<Answer>} post
 * @property {(name: string, detail?: object) => void} tell what became of a try
 * @property {() => string} newKey
 * @property {() => string} now
 * @property {(html: string) => string} inWords
 */

// What the queue itself notes of a try; all else is what the server is told.
const OURS = ["url", "user", "scene", "number", "refused", "flying", "fleeting", "picture"];

/**
 * Whether nobody has answered for what was sent: no answer, a broken server, the door, or too much at once.
 * @param {number} status
 */
export const isUnanswered = (status) => status === 0 || status >= 500 || [401, 403, 429].includes(status);

const bodyOf = (/** @type {Take} */ take) => {
  const body = new FormData();
  for (const [name, value] of Object.entries(take)) {
    if (!OURS.includes(name)) body.append(name, value || "");
  }
  if (take.picture) body.append("picture", take.picture, take.picture.name);
  return body;
};

/** @param {Means} means */
export const queueOf = ({ user, store, post, tell, newKey, now, inWords }) => {
  const page = newKey(); // what a page is sending by itself is left to it

  const add = async (/** @type {Take} */ take) => {
    await (await store).add(take);
    tell("rapzel:waiting");
  };
  const change = async (/** @type {string} */ key, /** @type {object} */ values) => {
    await (await store).change(key, values);
    tell("rapzel:waiting");
  };
  const remove = async (/** @type {string} */ key) => {
    await (await store).remove(key);
    tell("rapzel:waiting");
  };
  const kept = async () => (await store).of(user);

  // What another page began to send is sent again: its key counts once.
  const isWaiting = (/** @type {Take} */ take) => !take.refused && take.flying !== page;

  // 200: it is in the log. 4xx but for the door: it will never be, and the reason is told. All else: later again.
  const sendOne = async (/** @type {Take} */ take) => {
    const answer = await post(take.url, bodyOf(take));
    if (answer.status === 401 || answer.status === 403) tell("rapzel:door");
    if (isUnanswered(answer.status)) return false;
    const html = await answer.text();
    if (answer.ok) {
      await remove(take.key);
      tell("rapzel:logged", { html, url: take.url });
      return true;
    }
    await change(take.key, { refused: inWords(html) || "It was refused." });
    return true;
  };

  return {
    isEmpty: async () => (await kept()).length === 0,
    // Everything that waits, one after another, until nobody answers.
    async sendAll() {
      const next = async () => (await kept()).find(isWaiting); // read anew each time: another may have been added
      for (let take = await next(); take; take = await next()) {
        if (!(await sendOne(take).catch(() => false))) return;
      }
    },
    // A try that nobody is sending yet.
    add: (/** @type {string} */ scene, /** @type {string} */ url, /** @type {object} */ words) =>
      add({ ...words, user, scene, url, key: newKey(), at: now() }),
    /**
     * A try that its page sends with these words, of which this is the key and the time. `isKept` tells when it is safe.
     * @returns {Named & { isKept: Promise<unknown> }}
     */
    begin(/** @type {string} */ scene, /** @type {string} */ url, /** @type {object} */ words) {
      const named = { key: newKey(), at: now() };
      const isKept = add({ ...words, ...named, user, scene, url, flying: page });
      return { ...named, isKept };
    },
    /**
     * What became of it. True where the server has answered; else it waits from now on, with its picture.
     * @param {Named & { isKept: Promise<unknown> }} begun
     * @param {number} status
     * @param {File | null} file
     */
    async end(begun, status, file) {
      await begun.isKept;
      if (!isUnanswered(status)) {
        await remove(begun.key);
        return true;
      }
      await change(begun.key, { flying: "", picture: file });
      return false;
    },
    /** The tries of a scene that wait, those that this page is sending left out. */
    async of(/** @type {string} */ scene) {
      return (await kept()).filter((take) => take.scene === scene && take.flying !== page);
    },
    forget: (/** @type {{ key: string }} */ take) => remove(take.key),
  };
};
