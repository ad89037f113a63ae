// @ts-check
// Tries that wait to be logged. Each goes into the store first, with a key of its own and its time, and leaves it when
// the server has answered for it: a lost connection loses none, and a lost answer doubles none.

/**
 * @typedef {{ key: string, at: string, url: string, refused?: string, flying?: string, picture?: string, [word: string]: any }} Take
 * @typedef {{ get: (name: string) => string | null, set: (name: string, text: string) => void,
 *   remove: (name: string) => void, names: () => string[] }} Store
 * @typedef {{ keep: (take: Take, file: File) => Promise<void>, of: (take: Take) => Promise<Blob | null>,
 *   remove: (take: Take) => Promise<unknown> }} Pictures
 * @typedef {{ status: number, ok: boolean, text: () => Promise<string> }} Answer
 * @typedef {object} Means
 * @property {string} user whose tries they are
 * @property {Store} store
 * @property {Pictures} pictures too large for the store; they lie beside it until their try has gone
 * @property {(url: string, body: FormData) => Promise<Answer>} post
 * @property {(name: string, detail?: object) => void} tell what became of a try
 * @property {() => string} newKey
 * @property {() => string} now
 * @property {(html: string) => string} inWords
 */

// What the queue itself notes of a try; all else is what the server is told.
const OURS = ["url", "refused", "flying", "picture"];

/**
 * Whether nobody has answered for what was sent: no answer, a broken server, the door, or too much at once.
 * @param {number} status
 */
export const isUnanswered = (status) => status === 0 || status >= 500 || [401, 403, 429].includes(status);

/** @param {Means} means */
export const queueOf = (means) => {
  const { store, pictures, tell } = means;
  const prefix = `rapzel:takes:${means.user}:`;
  const page = means.newKey(); // what a page is sending by itself is left to it

  /** @returns {Take[]} */
  const kept = (/** @type {string} */ name) => {
    try {
      return JSON.parse(store.get(name) || "[]") || [];
    } catch {
      return [];
    }
  };
  const keep = (/** @type {string} */ name, /** @type {Take[]} */ takes) => {
    if (takes.length) store.set(name, JSON.stringify(takes));
    else store.remove(name);
    tell("rapzel:waiting");
  };
  const without = (/** @type {string} */ name, /** @type {{ key: string }} */ take) => {
    const gone = kept(name).find((each) => each.key === take.key);
    if (gone && gone.picture) pictures.remove(gone);
    keep(name, kept(name).filter((each) => each.key !== take.key));
  };
  const change = (/** @type {string} */ name, /** @type {{ key: string }} */ take, /** @type {object} */ values) =>
    keep(name, kept(name).map((each) => (each.key === take.key ? { ...each, ...values } : each)));

  // What another page began to send is sent again: its key counts once.
  const isWaiting = (/** @type {Take} */ take) => !take.refused && take.flying !== page;

  const bodyOf = async (/** @type {Take} */ take) => {
    const body = new FormData();
    for (const [name, value] of Object.entries(take)) {
      if (!OURS.includes(name)) body.append(name, value || "");
    }
    const file = take.picture ? await pictures.of(take) : null;
    if (file && take.picture) body.append("picture", file, take.picture);
    return body;
  };

  // 200: it is in the log. 4xx but for the door: it will never be, and the reason is told. All else: later again.
  const sendOne = async (/** @type {string} */ name, /** @type {Take} */ take) => {
    const answer = await means.post(take.url, await bodyOf(take));
    if (answer.status === 401 || answer.status === 403) tell("rapzel:door");
    if (isUnanswered(answer.status)) return false;
    const html = await answer.text();
    if (answer.ok) {
      without(name, take);
      tell("rapzel:logged", { html, url: take.url });
      return true;
    }
    change(name, take, { refused: means.inWords(html) || "It was refused." });
    return true;
  };

  const isEmpty = () => !store.names().some((name) => name.startsWith(prefix));

  return {
    isEmpty,
    // Everything that waits, one after another, until nobody answers.
    async sendAll() {
      for (const name of store.names().filter((each) => each.startsWith(prefix))) {
        const next = () => kept(name).find(isWaiting); // read anew each time: another may have been added
        for (let take = next(); take; take = next()) {
          if (!(await sendOne(name, take).catch(() => false))) return;
        }
      }
    },
    // A try that nobody is sending yet.
    add(/** @type {string} */ scene, /** @type {string} */ url, /** @type {object} */ words) {
      const name = prefix + scene;
      keep(name, [...kept(name), { ...words, url, key: means.newKey(), at: means.now() }]);
    },
    // A try that its page sends with these words, of which this is the key and the time.
    begin(/** @type {string} */ scene, /** @type {string} */ url, /** @type {object} */ words) {
      const named = { key: means.newKey(), at: means.now() };
      const name = prefix + scene;
      keep(name, [...kept(name), { ...words, ...named, url, flying: page }]);
      return named;
    },
    // What became of it. True where the server has answered; else it waits from now on, with its picture.
    async end(/** @type {string} */ scene, /** @type {Take} */ take, /** @type {number} */ status, /** @type {File | null} */ file) {
      const name = prefix + scene;
      if (!isUnanswered(status)) {
        without(name, take);
        return true;
      }
      if (file) await pictures.keep(take, file);
      change(name, take, { flying: "", picture: file ? file.name : "" });
      return false;
    },
    /** The tries of a scene that wait, those that this page is sending left out. */
    of: (/** @type {string} */ scene) => kept(prefix + scene).filter((take) => take.flying !== page),
    forget: (/** @type {string} */ scene, /** @type {{ key: string }} */ take) => without(prefix + scene, take),
  };
};
