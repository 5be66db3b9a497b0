import { TriangleAlert } from "lucide-react";
import type { Schema } from "../../api/client";

interface Props {
  cautions: Schema["Caution"][];
  /** Before anything is done they stand in full size; beside other things smaller. */
  large?: boolean;
}

/** The cautions for what is on screen; what is hot now stands out. `<Cautions cautions={order.cautions} />` */
export function Cautions({ cautions, large = false }: Props) {
  return (
    <ul
      aria-label="Cautions"
      className={large ? "my-3 space-y-1" : "space-y-1 text-[13px] text-soft"}
    >
      {cautions.map((c) => (
        <li key={c.id} className={c.id === "hot_joint" ? "font-bold text-over" : ""}>
          <TriangleAlert size={large ? 15 : 13} aria-hidden className="mr-1 inline text-ochre" />
          <b className="text-ink">{c.when}.</b> {c.says}
        </li>
      ))}
    </ul>
  );
}
