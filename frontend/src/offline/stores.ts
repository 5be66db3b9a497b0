/** Where the worker keeps pages, and what the program answered. */
export const PAGES = "spare-margin-pages";
/** Where it keeps the small pictures of photographs, which never change. */
export const PICTURES = "spare-margin-pictures";
export const ANSWERS = "spare-margin-answers";
/** Stands on an answer that the worker gave from what it keeps. */
export const KEPT = "x-kept-on-this-device";
