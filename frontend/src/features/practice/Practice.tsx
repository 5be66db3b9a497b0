import { type ComponentType, useState } from "react";
import { useParams } from "react-router";
import { whoReads } from "../../api/who";
import { Crash } from "../../ui/told/Crash";
import { Opening } from "../../ui/told/Opening";
import { useAccess } from "../access/api";
import { AskName } from "./AskName";
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
  const access = useAccess();
  const [named, setNamed] = useState(() => whoReads() !== "");
  // Nothing is asked of nobody: what is shown is somebody's. A paired device is a person's already.
  if (!named && access.isPending) return <Opening says="Opening …" />;
  if (!named && access.data?.door === "here") return <AskName onNamed={() => setNamed(true)} />;
  if (part === undefined) return <PracticePage />;
  const Part = PARTS[part];
  return Part ? <Part key={id} id={id} /> : <Crash missing />;
}
