// @ts-check
// Which shortcut a key press asks for. What is typed into a field is typing, and a dialog has keys of its own.

/**
 * @typedef {{ key: string, ctrlKey: boolean, metaKey: boolean, altKey: boolean }} Press
 * @typedef {{ isTyping: boolean, isInDialog: boolean }} Where
 */

/**
 * The key of the shortcut; null where the press asks for none.
 * @param {Press} press
 * @param {Where} where
 * @returns {string | null}
 */
export const shortcutOf = (press, where) => {
  const isCommand = press.ctrlKey || press.metaKey || press.altKey;
  if (isCommand || where.isTyping || where.isInDialog) return null;
  return press.key;
};
