import { Wrench } from "lucide-react";
import { Button } from "../../../ui/Button";
import { passOnShow, useDesk } from "../desk";

/** The way from the guilty piece to its repair; nothing where no piece is guilty or it is open. */
export function RepairGuilty() {
  const { sheet, select, selected } = useDesk();
  const pass = passOnShow(sheet);
  const guilty = pass && sheet.run.columns.find((c) => c.id === sheet.run[pass].guilty);
  if (!guilty || selected === guilty.id) return null;
  return (
    <Button onClick={() => select(guilty.id)}>
      <Wrench size={15} aria-hidden /> Plan the repair of {guilty.name}
    </Button>
  );
}
