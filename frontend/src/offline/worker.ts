/// <reference lib="webworker" />
/**
 * Keeps the application itself and the jobs opened lately on this device, so that a page opens and a walk
 * goes on where the network does not reach. It asks the program first, always: what is kept here is shown
 * only where the program does not answer, and the page then says that it does not.
 */
import { ExpirationPlugin } from "workbox-expiration";
import { cleanupOutdatedCaches, precacheAndRoute } from "workbox-precaching";
import { NavigationRoute, registerRoute } from "workbox-routing";
import { CacheFirst, NetworkFirst } from "workbox-strategies";
import { ANSWERS, KEPT, PAGES, PICTURES } from "./stores";

declare const self: ServiceWorkerGlobalScope;
/** Every script, style and font of this build; their names change with their content. */
declare const BUILT: string[];

const PATIENCE_S = 8;
/** What a job shows: its sheet, craft, walk, upgrade, proof; no files, no beat by which it is seen to be there. */
const SHOWN =
  /^\/api\/v1\/(access|settings|choices|tables|practice|practice\/(progress|attempts\/[^/]+(\/(ahead|debrief))?|lessons\/[^/]+)|jobs|jobs\/[^/]+\/(sheet|craft|walk|upgrade|order|proof|photographs|timeline|source-check))$/;
/** The small picture of a photograph. */
const SMALL = /^\/api\/v1\/jobs\/[^/]+\/photographs\/[^/]+\/small$/;

precacheAndRoute(BUILT.map((url) => ({ url, revision: null })));
cleanupOutdatedCaches();
// The page that this worker came with was loaded without it: kept too, so that the first visit can be the last.
self.addEventListener("install", (event) =>
  event.waitUntil(caches.open(PAGES).then((pages) => pages.add("/"))),
);

registerRoute(
  new NavigationRoute(
    new NetworkFirst({
      cacheName: PAGES,
      networkTimeoutSeconds: PATIENCE_S,
      // One page serves every address.
      plugins: [{ cacheKeyWillBeUsed: async () => "/" }],
    }),
    { denylist: [/^\/api\//] },
  ),
);

registerRoute(
  ({ url, request }) => request.method === "GET" && SHOWN.test(url.pathname),
  new NetworkFirst({
    cacheName: ANSWERS,
    networkTimeoutSeconds: PATIENCE_S,
    plugins: [
      { cachedResponseWillBeUsed: async ({ cachedResponse }) => marked(cachedResponse) },
      { cacheWillUpdate: async ({ response }) => (response.status === 200 ? response : null) },
      new ExpirationPlugin({ maxEntries: 300, maxAgeSeconds: 30 * 24 * 3600 }),
    ],
  }),
);

registerRoute(
  ({ url, request }) => request.method === "GET" && SMALL.test(url.pathname),
  new CacheFirst({
    cacheName: PICTURES,
    plugins: [new ExpirationPlugin({ maxEntries: 600, maxAgeSeconds: 30 * 24 * 3600 })],
  }),
);

self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

/** The same answer, with what tells the page where it came from. */
function marked(kept: Response | undefined): Response | undefined {
  if (!kept) return kept;
  const headers = new Headers(kept.headers);
  headers.set(KEPT, "yes");
  return new Response(kept.body, { status: kept.status, headers });
}
