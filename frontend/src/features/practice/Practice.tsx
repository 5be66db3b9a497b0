import type { ComponentType } from "react";
import { useParams } from "react-router";
import { Crash } from "../../ui/told/Crash";
import { BayPage } from "./BayPage";
import { DebriefPage } from "./DebriefPage";
import { LessonPage } from "./LessonPage";
import { PracticePage } from "./PracticePage";
import { ProgressPage } from "./ProgressPage";
import { SetPage } from "./SetPage";

const PARTS: Record<string, ComponentType<{ id: string }>> = {
  bay: BayPage,
  debrief: DebriefPage,
  lessons: LessonPage,
  progress: ProgressPage,
  sets: SetPage,
};

/** The pages of practice under one address, loaded together: who opens one goes on to the next. */
export function Practice() {
  const { part, id = "" } = useParams();
  if (part === undefined) return <PracticePage />;
  const Part = PARTS[part];
  return Part ? <Part key={id} id={id} /> : <Crash missing />;
}
