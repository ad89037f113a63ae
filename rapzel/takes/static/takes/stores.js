// @ts-check
// Where tries wait: a record each, in the browser's database, so that two pages never write over each other's, and a
// picture lies with its try.

/**
 * A try that waits. `note`, `outcome` and the like are what the server is told; the rest is the queue's own.
 * @typedef {{ key: string, user: string, scene: string, at: string, url: string, refused?: string, flying?: string,
 *   fleeting?: boolean, picture?: File | null, number?: number, [word: string]: any }} Take
 *
 * @typedef {object} Store
 * @property {(take: Take) => Promise<void>} add
 * @property {(key: string, values: object) => Promise<void>} change nothing where it has gone meanwhile
 * @property {(key: string) => Promise<void>} remove
 * @property {(user: string) => Promise<Take[]>} of the tries of a person, in the order in which they were added
 *
 * @typedef {(name: string, version: number, how: { upgrade: (database: any) => void }) => Promise<any>} Open
 */

const NAME = "rapzel";
const TAKES = "takes";

const upgrade = (/** @type {any} */ database) => {
  const takes = database.createObjectStore(TAKES, { keyPath: "number", autoIncrement: true });
  takes.createIndex("key", "key", { unique: true });
  takes.createIndex("user", "user");
};

/**
 * The browser's database.
 * @param {Open} open `openDB` of idb
 * @returns {Promise<Store>} rejects where the browser has none
 */
export const databaseStore = async (open) => {
  const database = await open(NAME, 1, { upgrade });

  /** Commits at once: the page may be left before another turn of its loop. */
  const write = async (/** @type {(takes: any) => Promise<unknown>} */ work) => {
    const transaction = database.transaction(TAKES, "readwrite");
    const worked = work(transaction.store);
    await Promise.all([worked, transaction.done]);
  };
  return {
    add: (take) =>
      write(async (takes) => {
        const added = takes.add(take);
        takes.transaction.commit();
        await added;
      }),
    change: (key, values) =>
      write(async (takes) => {
        const take = await takes.index("key").get(key);
        if (take) await takes.put({ ...take, ...values });
      }),
    remove: (key) =>
      write(async (takes) => {
        const number = await takes.index("key").getKey(key);
        if (number !== undefined) await takes.delete(number);
      }),
    of: (user) => database.getAllFromIndex(TAKES, "user", user),
  };
};

/**
 * As long as a page is open.
 * @returns {Store}
 */
export const memoryStore = () => {
  /** @type {Map<string, Take>} */
  const takes = new Map();
  return {
    add: async (take) => void takes.set(take.key, { ...take, fleeting: true }),
    change: async (key, values) => {
      const take = takes.get(key);
      if (take) takes.set(key, { ...take, ...values });
    },
    remove: async (key) => void takes.delete(key),
    of: async (user) => [...takes.values()].filter((take) => take.user === user),
  };
};

/**
 * A store that takes all: what the first one has no room for waits in the second.
 * @param {Store} first
 * @param {Store} second
 * @returns {Store}
 */
export const bothStores = (first, second) => ({
  add: (take) => first.add(take).catch(() => second.add(take)),
  async change(key, values) {
    await first.change(key, values);
    await second.change(key, values);
  },
  async remove(key) {
    await first.remove(key);
    await second.remove(key);
  },
  of: async (user) => [...(await first.of(user)), ...(await second.of(user))],
});

/**
 * Moves tries that waited in the store of before, a list a scene under `rapzel:takes:<user>:<scene>`, their pictures in
 * a cache. Each leaves it only when it has come over; one that came over already is not doubled.
 * @param {{ names: () => string[], get: (name: string) => string | null, remove: (name: string) => void }} old
 * @param {(take: { key: string }) => Promise<Blob | null>} pictureOf
 * @param {Store} store
 */
export const moveOld = async (old, pictureOf, store) => {
  const prefix = "rapzel:takes:";
  for (const name of old.names().filter((each) => each.startsWith(prefix))) {
    const [user, scene] = name.slice(prefix.length).split(":");
    const known = new Set((await store.of(user)).map((take) => take.key));
    for (const take of listIn(old.get(name))) {
      if (known.has(take.key)) continue;
      const found = take.picture ? await pictureOf(take) : null;
      const picture = found && new File([found], take.picture, { type: found.type });
      await store.add({ ...take, user, scene, picture });
    }
    old.remove(name);
  }
};

/** @returns {any[]} what is no list holds none */
const listIn = (/** @type {string | null} */ text) => {
  try {
    const list = JSON.parse(text || "[]");
    return Array.isArray(list) ? list : [];
  } catch {
    return [];
  }
};
