import { Link } from "react-router";

/** What a person sees when a page cannot be shown; never a stack trace. */
export function Crash({ missing = false }: { missing?: boolean }) {
  return (
    <main className="mx-auto max-w-md p-8">
      <h1 className="mb-2 text-xl font-bold">
        {missing ? "There is nothing here" : "This page came apart"}
      </h1>
      <p className="mb-4 text-soft">
        {missing
          ? "The address leads nowhere."
          : "Everything kept is safe. Reload the page, or go back to the shelf."}
      </p>
      <Link to="/" className="font-bold text-slate underline">
        To the shelf
      </Link>
    </main>
  );
}
