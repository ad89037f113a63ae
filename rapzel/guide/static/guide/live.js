// @ts-check
// The live scene of the first page: the answer comes by htmx; its picture and the figures beside the sliders follow it.
const answer = () => document.querySelector("#live-answer [data-speed]");
const picture = () => /** @type {HTMLImageElement} */ (document.getElementById("live-picture"));

const addressOf = (/** @type {DOMStringMap} */ step) => {
  const first = document.getElementById("live")?.dataset.picture || "";
  return first.replace("/0/0.jpg", `/${step.speed}/${step.power}.jpg`);
};

document.addEventListener("htmx:afterSettle", () => {
  const told = /** @type {HTMLElement | null} */ (answer());
  if (!told) return;
  const step = told.dataset;
  for (const name of ["speed", "power"]) {
    const says = document.getElementById(`${name}-says`);
    if (says) says.textContent = step[`${name}Says`] || "";
  }
  const address = addressOf(step);
  if (picture().getAttribute("src") === address) return;
  // The old picture stays until the new one is there.
  const loader = new Image();
  loader.onload = () => {
    if (answer() === told) picture().src = address;
  };
  loader.src = address;
  picture().alt = `Rehearsal: ${step.says}`;
});
