import { useEffect, useRef, useState } from "react";
import { call, type Schema } from "../../api/client";

/**
 * A run line as the server understands it, shortly after each change.
 *
 * @example const { read, asked } = useReadLine(job, stage, text, caret);
 *          if (asked === text) show(read.errors);
 */
export function useReadLine(job: string, stage: string | undefined, text: string, caret: number) {
  const [read, setRead] = useState<Schema["ReadText"]>();
  const [asked, setAsked] = useState<string>();
  const turn = useRef(0);
  useEffect(() => {
    turn.current += 1;
    const mine = turn.current;
    const timer = setTimeout(async () => {
      try {
        const body = { text, caret: Math.min(caret, 20000), stage: stage ?? null };
        const now = await call<Schema["ReadText"]>(`/jobs/${job}/line/read`, body);
        if (mine !== turn.current) return;
        setRead(now);
        setAsked(text);
      } catch {
        // Without an answer the text stays as it is; drawing it will say what is wrong.
      }
    }, 50);
    return () => clearTimeout(timer);
  }, [job, stage, text, caret]);
  return { read, asked };
}
