/** Where the worker keeps pages, and what the program answered. */
export const PAGES = "spare-margin-pages";
export const ANSWERS = "spare-margin-answers";
/** Stands on an answer that the worker gave from what it keeps. */
export const KEPT = "x-kept-on-this-device";
