// Elements of the page that a script reaches for, as what they are.

/** @param {string} id @returns {HTMLDialogElement} */
export const dialog = (id) => /** @type {any} */ (document.getElementById(id));

/** @param {string} id @returns {HTMLDetailsElement} */
export const folded = (id) => /** @type {any} */ (document.getElementById(id));

/** @param {string} selector @returns {HTMLInputElement | null} what can be focused, and typed into */
export const box = (selector) => document.querySelector(selector);

/** @param {string} selector @returns {HTMLElement[]} */
export const all = (selector) => [...document.querySelectorAll(selector)].map((one) => /** @type {HTMLElement} */ (one));
