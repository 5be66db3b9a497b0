import { GraduationCap } from "lucide-react";
import type { ReactNode } from "react";
import { Page } from "../../ui/Page";

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
  return (
    <>
      <aside
        aria-label="Practice"
        className="flex items-center justify-center gap-2 border-b-2 border-dashed border-copper bg-copper-fill px-3 py-1 text-[13px] font-bold"
      >
        <GraduationCap size={15} aria-hidden /> Practice. Nothing here is a real job.
      </aside>
      <Page title={`${title} · practice`} back={back} {...rest}>
        {children}
      </Page>
    </>
  );
}
