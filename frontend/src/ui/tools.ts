import { signal } from "../api/signal";

/** Which part of the guide is open over the page: its title, "" for the one that the page is about; null for none. */
export const helping = signal<string | null>(null);
/** Whether what finds jobs, runs, pages and acts is open over the page. */
export const finding = signal(false);
