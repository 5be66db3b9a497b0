import { Wrench } from "lucide-react";
import { useEffect, useRef } from "react";
import { Button } from "../../../ui/Button";
import { passOnShow, useDesk } from "../desk";
import { goTo } from "../useSheetKeys";

/** The way from the guilty piece to its repair; nothing where no piece is guilty or it is open. */
export function RepairGuilty() {
  const { sheet, select, selected } = useDesk();
  const pass = passOnShow(sheet);
  const guilty = pass && sheet.run.columns.find((c) => c.id === sheet.run[pass].guilty);
  const chosen = Boolean(guilty) && selected === guilty?.id;
  const asked = useRef(false);
  useEffect(() => {
    // The button is gone then: what it was pressed for has the focus.
    if (chosen && asked.current) goTo("inspector");
    asked.current = false;
  }, [chosen]);
  if (!guilty || chosen) return null;
  const plan = () => {
    asked.current = true;
    select(guilty.id);
  };
  return (
    <Button onClick={plan}>
      <Wrench size={15} aria-hidden /> Plan the repair of {guilty.name}
    </Button>
  );
}
