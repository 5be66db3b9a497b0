/** Let the worker keep the application on this device, where a browser allows it: at the machine, or over TLS. */
export function keepOnThisDevice(): void {
  if (!import.meta.env.PROD || !("serviceWorker" in navigator)) return;
  window.addEventListener("load", () => {
    // Without it the page that is open goes on as it does; there is nothing to say.
    navigator.serviceWorker.register("/worker.js").catch(() => undefined);
  });
}
