import { useQueryClient } from "@tanstack/react-query";
import { GraduationCap } from "lucide-react";
import { type ReactNode, useState } from "react";
import { keys } from "../../api/keys";
import { sayWhoReads, whoReads } from "../../api/who";
import { Button } from "../../ui/Button";
import { Page } from "../../ui/Page";
import { TextField } from "../../ui/TextField";
import { useAccess } from "../access/api";

interface Props {
  title: string;
  back?: [to: string, name: string];
  heading?: ReactNode;
  acts?: ReactNode;
  className: string;
  children: ReactNode;
}

/** A page of practice: one line at its top says that nothing here is a real job. */
export function Practising({ title, back = ["/practise", "Practice"], children, ...rest }: Props) {
  const here = useAccess().data?.door === "here";
  const [named, setNamed] = useState(() => whoReads() !== "");
  const queries = useQueryClient();
  const nameSaid = () => {
    setNamed(true);
    // What was asked before was of nobody.
    void queries.invalidateQueries({ queryKey: keys.practice });
  };
  return (
    <>
      <aside
        aria-label="Practice"
        className="flex items-center justify-center gap-2 border-b-2 border-dashed border-copper bg-copper-fill px-3 py-1 text-[13px] font-bold"
      >
        <GraduationCap size={15} aria-hidden /> Practice. Nothing here is a real job.
      </aside>
      <Page title={`${title} · practice`} back={back} {...rest}>
        {here && !named ? <AskName onNamed={nameSaid} /> : children}
      </Page>
    </>
  );
}

/** Progress is kept by name: the one that measures with this device. */
function AskName({ onNamed }: { onNamed: () => void }) {
  const [name, setName] = useState("");
  return (
    <form
      className="mx-auto max-w-md space-y-3 py-6"
      onSubmit={(e) => {
        e.preventDefault();
        if (!name.trim()) return;
        sayWhoReads(name);
        onNamed();
      }}
    >
      <TextField label="Your name" value={name} onChange={setName} autoFocus />
      <p className="text-soft">
        Your progress is kept under it. The same name stands with the readings you take in real
        jobs.
      </p>
      <Button type="submit" tone="strong" disabled={!name.trim()}>
        Go on
      </Button>
    </form>
  );
}
