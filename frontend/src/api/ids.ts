/**
 * An id made on this device, so that what is sent twice is kept once. `crypto.randomUUID` is not there on
 * a page that came without TLS, as on a phone in the workshop: these are as many random bits.
 *
 * @example newId(); // "3f9c0a…", 32 hex figures
 */
export function newId(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(16));
  return Array.from(bytes, (b) => b.toString(16).padStart(2, "0")).join("");
}
