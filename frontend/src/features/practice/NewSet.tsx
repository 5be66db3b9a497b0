import { useState } from "react";
import { useNavigate } from "react-router";
import { sentence } from "../../api/client";
import { Button } from "../../ui/Button";
import { OverSheet } from "../../ui/Dialog";
import { TextField } from "../../ui/TextField";
import { type Practice, useSetActs } from "./api";

/** Exercises and people chosen for a set. */
export function NewSet({ practice, onClose }: { practice: Practice; onClose: () => void }) {
  const { make } = useSetActs();
  const navigate = useNavigate();
  const [name, setName] = useState("");
  const [people, setPeople] = useState(practice.learners.join("\n"));
  const [chosen, setChosen] = useState<string[]>([]);
  const turn = (key: string) =>
    setChosen(chosen.includes(key) ? chosen.filter((k) => k !== key) : [...chosen, key]);
  const all: [string, Practice["own"]][] = [
    ...practice.levels.map((l): [string, Practice["own"]] => [`${l.level} ${l.name}`, l.exercises]),
    ["From your own jobs", practice.own],
  ];
  return (
    <OverSheet open onClose={onClose} title="Set exercises for a group">
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          make.mutate(
            { name, exercises: chosen, learners: people.split("\n") },
            { onSuccess: (made) => navigate(`/practise/sets/${made.id}`) },
          );
        }}
      >
        <TextField label="Name of the set" value={name} onChange={setName} autoFocus />
        <TextField label="People, one a line" value={people} onChange={setPeople} long />
        <fieldset className="max-h-72 overflow-auto rounded border border-line p-2">
          <legend className="text-[13px] text-soft">Exercises, {chosen.length} chosen</legend>
          {all.map(([head, exercises]) => (
            <div key={head}>
              {exercises.length > 0 && <p className="mt-1 font-bold">{head}</p>}
              {exercises.map((e) => (
                <label key={e.key} className="flex min-h-11 items-center gap-2 lg:min-h-8">
                  <input
                    type="checkbox"
                    className="size-5"
                    checked={chosen.includes(e.key)}
                    onChange={() => turn(e.key)}
                  />
                  <span>
                    {e.title} <span className="text-soft">{e.complaint}</span>
                  </span>
                </label>
              ))}
            </div>
          ))}
        </fieldset>
        {make.isError && (
          <p role="alert" className="text-over">
            {sentence(make.error)}
          </p>
        )}
        <Button type="submit" tone="strong" disabled={make.isPending}>
          Set them
        </Button>
      </form>
    </OverSheet>
  );
}
