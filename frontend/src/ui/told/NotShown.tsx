import { Link } from "react-router";
import { sentence, Unreachable } from "../../api/client";
import { Heading } from "../Heading";

/** A page whose subject could not be had: what it was, why not, and a way on. */
export function NotShown(p: { what: string; error: unknown; to: string; way: string }) {
  const away = p.error instanceof Unreachable;
  return (
    <main className="mx-auto max-w-md p-8">
      <Heading className="mb-2 text-xl font-bold">{away ? "Not on this device" : p.what}</Heading>
      <p role="alert" className="mb-4">
        {away
          ? "The program does not answer, and this device has no copy of this page."
          : sentence(p.error)}
      </p>
      <Link to={p.to} className="inline-flex min-h-11 items-center font-bold text-slate underline">
        {p.way}
      </Link>
    </main>
  );
}
