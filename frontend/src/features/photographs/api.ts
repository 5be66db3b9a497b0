import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { call, type Schema, sentence } from "../../api/client";
import { newId } from "../../api/ids";
import { jobChanged, keys } from "../../api/keys";
import { send, useWaiting, type Waiting } from "../../api/outbox";
import { whoReads } from "../../api/who";
import { pictureOf } from "../../offline/pictures";
import { useSay } from "../../ui/told/Notices";

type Photograph = Schema["Photograph"];
export type Stage = Photograph["stage"];
/** What a photograph is of. */
export type Of = Pick<Photograph, "subject" | "about">;
/** A photograph that is kept, or one that still waits on this device. */
export type Shown = Schema["ShownPhotograph"] & { waits?: boolean };
/** What a camera or a gallery may give. */
export const ACCEPT = "image/jpeg,image/png,image/webp";
/** How the two columns are headed. */
export const WHEN: Record<Stage, string> = { as_found: "Before", as_left: "After" };

/** The address of the picture of a photograph. */
export const pictureAt = (job: string, id: string, scale: "large" | "small") =>
  `/api/v1/jobs/${job}/photographs/${id}/${scale}`;

/** The photographs of a job, what waits on this device among them. */
export function usePhotographs(job: string) {
  const { data, isPending, error } = useQuery({
    queryKey: keys.photographs(job),
    queryFn: () => call<Schema["PhotographList"]>(`/jobs/${job}/photographs`),
  });
  const waiting = useWaiting(job).filter((w) => w.path === "photographs");
  const kept: Shown[] = data?.photographs ?? [];
  const ids = new Set(kept.map((s) => s.photograph.id));
  const all = [...kept, ...waiting.filter((w) => !ids.has(w.id)).map(asShown)];
  return { all, title: data?.title, most: data?.most ?? 0, isPending, error };
}

/** An entry that waits, as it will be shown once it is kept. */
function asShown(entry: Waiting): Shown {
  const said = entry.body as Partial<Photograph>;
  const { subject = "job", about = "", stage = "as_found", note = "", who = "" } = said;
  const photograph: Photograph = {
    id: entry.id,
    subject,
    about,
    stage,
    note,
    who,
    on_sheet: false,
    taken_at: new Date(entry.typedAt).toISOString(),
    width_px: 1,
    height_px: 1,
  };
  return { photograph, shows: entry.name, part: partOf({ subject, about }), waits: true };
}

/** The part that something shows: a step of an order is named by what it works on. */
export function partOf({ subject, about }: Of): string {
  if (subject === "step") return about.split(".").slice(2).join(".");
  return subject === "part" ? about : "";
}

/** Whether a photograph is of this thing; of a part also where it was taken at a step. */
export function isOf(shown: Shown, of: Of): boolean {
  const part = partOf(of);
  if (part) return shown.part === part;
  return shown.photograph.subject === of.subject && shown.photograph.about === of.about;
}

/** What can be done with the photographs of a job. */
export function usePhotographActs(job: string) {
  const queries = useQueryClient();
  const say = useSay();
  const tried = async (act: () => Promise<unknown>) => {
    try {
      await act();
      await jobChanged(queries, job);
      return true;
    } catch (error) {
      say(sentence(error), { bad: true });
      return false;
    }
  };
  const post = (id: string, body: unknown, act = "") =>
    call(`/jobs/${job}/photographs/${id}${act}`, body);
  /** Each is kept on this device first and sent once; those that are refused say why. */
  const add = async (files: Iterable<File>, of: Of, stage: Stage, name: string) => {
    for (const file of files) {
      const body = { id: newId(), ...of, stage, note: "", who: whoReads() };
      const outcome = await send({ job, path: "photographs", body, name }, file);
      if (outcome.state === "refused") say(`${file.name}: ${outcome.why}`, { bad: true });
    }
    await jobChanged(queries, job);
  };
  const write = (id: string, said: Schema["PhotographSaid"]) => tried(() => post(id, said));
  const remove = async (id: string) => {
    if (!(await tried(() => post(id, {}, "/delete")))) return;
    const back = () => void tried(() => post(id, {}, "/take-back"));
    say("Photograph deleted.", { act: { label: "Undo", run: back } });
  };
  return { add, write, remove };
}

/** The address of a picture that waits on this device; null while it is fetched, or where it is gone. */
export function useWaitingPicture(id: string | null): string | null {
  const [url, setUrl] = useState<string | null>(null);
  useEffect(() => {
    let made: string | null = null;
    let left = false;
    if (id) {
      void pictureOf(id).then((picture) => {
        if (!picture || left) return;
        made = URL.createObjectURL(picture);
        setUrl(made);
      });
    }
    return () => {
      left = true;
      setUrl(null);
      if (made) URL.revokeObjectURL(made);
    };
  }, [id]);
  return url;
}
