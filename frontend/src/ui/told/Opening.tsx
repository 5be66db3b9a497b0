/** A page that is on its way: it says what is done meanwhile. */
export function Opening({ says }: { says: string }) {
  return (
    <main aria-busy="true" className="p-8">
      <h1 className="text-soft">{says}</h1>
    </main>
  );
}
