import { forgetAnswers } from "../offline/forget";
import { signal } from "./signal";

/** Whether the program knows this device, as far as it has said. */
export const paired = signal(true, (now) => {
  if (!now) void forgetAnswers();
});

/** Whether this device was shown the door: by the workshop, or by itself. */
export const removed = signal(false);

/** Whether what was answered last came from what this device keeps, since the program did not answer. */
export const fromHere = signal(false);

/** The build of the program that answers, where it is another than this page is of; empty else. */
export const outdated = signal("");

/** Why the program cannot take what waits, in its words; empty where it takes it, or does not answer at all. */
export const hindrance = signal("");
