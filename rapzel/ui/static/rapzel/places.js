// @ts-check
// The places that a handle of a drawing can be at, each with the text that stands for it. The server worked them out.

/**
 * Along a line [x, text], or in the plane [x, y, text].
 * @typedef {[number, string] | [number, number, string]} Place
 * @typedef {{ x: number, y: number }} Point
 * @typedef {{ x: number, y: number, width: number, height: number }} Box
 */

/**
 * How far a place is from a point, in units of the drawing.
 * @param {Place} place
 * @param {Point} at
 */
const away = (place, at) => {
  if (place.length === 2) return Math.abs(place[0] - at.x);
  return Math.hypot(place[0] - at.x, place[1] - at.y);
};

/**
 * The place that is nearest to a point.
 * @param {Place[]} places at least one
 * @param {Point} at
 * @returns {Place}
 */
export const nearest = (places, at) => places.reduce((best, each) => (away(each, at) < away(best, at) ? each : best));

/**
 * The text that stands for a place.
 * @param {Place} place
 * @returns {string}
 */
export const textOf = (place) => String(place[place.length - 1]);

/**
 * Where a handle was taken hold of, measured from the point of it that is moved: an edge, or its middle.
 * @param {Box} box of the handle
 * @param {Point} at where the pointer is
 * @param {string | undefined} edge "left", "right", or neither
 * @returns {Point}
 */
export const gripOf = (box, at, edge) => {
  const middle = box.x + box.width / 2;
  const x = edge === "left" ? box.x : edge === "right" ? box.x + box.width : middle;
  return { x: at.x - x, y: at.y - (box.y + box.height / 2) };
};
