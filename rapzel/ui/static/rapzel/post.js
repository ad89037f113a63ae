// @ts-check
// What is sent by scripts and not by htmx: with the token of forms, and as a part of a page.

/**
 * The token of the cookie, not of the page: it is another one after logging in again in another tab.
 * @returns {string}
 */
export const token = () => {
  const found = document.cookie.split("; ").find((each) => each.startsWith("csrftoken="));
  return found ? decodeURIComponent(found.slice("csrftoken=".length)) : "";
};

/**
 * @param {string} url
 * @param {FormData | Record<string, string>} values
 * @returns {Promise<Response>}
 */
export const post = (url, values) => {
  const body = values instanceof FormData ? values : new URLSearchParams(values);
  return fetch(url, { method: "POST", headers: { "X-CSRFToken": token(), "HX-Request": "true" }, body });
};
