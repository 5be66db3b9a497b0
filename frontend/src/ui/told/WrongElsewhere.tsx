import { sentence } from "../../api/client";
import { wrongWith } from "./wrong";

/** Says, under a form, what is wrong with none of the fields that it shows. */
export function WrongElsewhere({ error, fields }: { error: unknown; fields: readonly string[] }) {
  if (!error || fields.some((field) => wrongWith(error, field))) return null;
  return (
    <p role="alert" className="col-span-full text-over">
      {sentence(error)}
    </p>
  );
}
