// @ts-check
// Go to or do: a dialog in which typing finds any page, scene, input or action. What the open page can do is found here;
// where one can go, by the server.
import { all } from "./dom.js";

const PAUSE_MS = 120;

/** @typedef {{ says: string, kind: string, go: () => void }} Choice */

const dialog = () => /** @type {HTMLDialogElement} */ (document.getElementById("go-to"));
const input = () => /** @type {HTMLInputElement} */ (document.getElementById("go-typed"));
const list = () => /** @type {HTMLElement} */ (document.getElementById("go-list"));
const count = () => /** @type {HTMLElement} */ (document.getElementById("go-count"));

/** @type {Choice[]} */
let choices = [];
let chosen = 0;
let asked = 0; // the question that was asked last: an older answer is not shown

const wordsOf = (/** @type {string} */ text) => text.toLocaleLowerCase().split(/\s+/).filter(Boolean);

/** What this page can do, by its keys. */
const actions = (/** @type {string[]} */ wanted) => {
  /** @type {HTMLElement[]} */
  const elements = all("main [data-key-says], .house [data-key-says]");
  const fitting = elements.filter((element) => {
    const there = wordsOf(element.dataset.keySays || "");
    return wanted.length > 0 && wanted.every((word) => there.some((each) => each.startsWith(word)));
  });
  return fitting.map((element) => ({
    says: element.dataset.keySays || "",
    kind: `here, ${element.dataset.key}`,
    go: () => (element.matches("input, textarea, select") ? element.focus() : element.click()),
  }));
};

/** An input of the open page is gone to without leaving it. */
const goTo = (/** @type {string} */ address) => {
  const target = new URL(address, window.location.href);
  const here = document.getElementById(target.hash.slice(1));
  if (target.hash && here) {
    document.dispatchEvent(new CustomEvent("rapzel:show", { detail: here }));
    return;
  }
  window.location.assign(address);
};

const optionOf = (/** @type {Choice} */ choice, /** @type {number} */ place) => {
  const option = document.createElement("li");
  option.id = `go-${place}`;
  option.setAttribute("role", "option");
  const name = document.createElement("span");
  name.textContent = choice.says;
  const kind = document.createElement("span");
  kind.className = "quiet";
  kind.textContent = choice.kind;
  option.append(name, " ", kind);
  option.addEventListener("click", () => take(place));
  return option;
};

const mark = () => {
  const options = [...list().children];
  for (const [place, option] of options.entries()) option.setAttribute("aria-selected", String(place === chosen));
  if (!options.length) {
    input().removeAttribute("aria-activedescendant");
    return;
  }
  input().setAttribute("aria-activedescendant", `go-${chosen}`);
  options[chosen].scrollIntoView({ block: "nearest" });
};

const show = (/** @type {Choice[]} */ found) => {
  choices = found;
  chosen = 0;
  list().replaceChildren(...found.map(optionOf));
  count().textContent = found.length ? `${found.length} found` : "Nothing is called that. Try a page, a scene or an input.";
  mark();
};

const take = (/** @type {number} */ place) => {
  const choice = choices[place];
  if (!choice) return;
  dialog().close();
  choice.go();
};

const look = async () => {
  asked += 1;
  const mine = asked;
  const typed = input().value;
  const here = actions(wordsOf(typed));
  const scene = document.querySelector("[data-open-scene]")?.getAttribute("data-open-scene") || "";
  const query = new URLSearchParams({ q: typed, scene });
  const answer = await fetch(`${dialog().dataset.url}?${query}`).catch(() => null);
  if (mine !== asked) return;
  list().dataset.for = typed;
  /** @type {{ says: string, kind: string, address: string }[]} */
  const found = answer && answer.ok ? (await answer.json()).found : [];
  if (mine !== asked) return;
  show([...here, ...found.map((one) => ({ says: one.says, kind: one.kind, go: () => goTo(one.address) }))]);
  if (!answer) count().textContent = "No connection: only what this page can do is found.";
};

let waiting = 0;
const lookSoon = () => {
  window.clearTimeout(waiting);
  waiting = window.setTimeout(look, PAUSE_MS);
};

/** Opens it, empty. */
export const openGoTo = () => {
  if (dialog().open) return;
  input().value = "";
  dialog().showModal();
  input().focus();
  look();
};

const move = (/** @type {number} */ by) => {
  if (!choices.length) return;
  chosen = (chosen + by + choices.length) % choices.length;
  mark();
};

document.addEventListener("DOMContentLoaded", () => {
  input().addEventListener("input", lookSoon);
  input().addEventListener("keydown", async (event) => {
    if (event.key === "ArrowDown") move(1);
    else if (event.key === "ArrowUp") move(-1);
    else if (event.key === "Enter") {
      // What was typed last has been looked for before it is gone to.
      window.clearTimeout(waiting);
      if (list().dataset.for !== input().value) await look();
      take(chosen);
    } else return;
    event.preventDefault();
  });
});
document.addEventListener("keydown", (event) => {
  if (!(event.ctrlKey || event.metaKey) || event.key.toLocaleLowerCase() !== "k") return;
  event.preventDefault();
  openGoTo();
});
