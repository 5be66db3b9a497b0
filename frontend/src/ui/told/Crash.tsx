import { Link } from "react-router";
import { outdated } from "../../api/reach";

/** What a person sees when a page cannot be shown; never a stack trace. */
export function Crash({ missing = false }: { missing?: boolean }) {
  const old = outdated.use();
  return (
    <main className="mx-auto max-w-md p-8">
      <h1 className="mb-2 text-xl font-bold">
        {missing ? "There is nothing here" : "This page cannot be shown"}
      </h1>
      <p className="mb-4 text-soft">
        {missing
          ? "There is nothing at this address."
          : old
            ? "The program was updated since this page was opened. Reload the page; everything kept is safe."
            : "Everything saved is safe. Reload the page, or go back to the jobs."}
      </p>
      <Link to="/" className="font-bold text-slate underline">
        Back to jobs
      </Link>
    </main>
  );
}
