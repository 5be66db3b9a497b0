import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema } from "../../api/client";
import { keys } from "../../api/keys";

export type Meter = Schema["Connection"];
export type MeterForm = Schema["MeterForm"];
export type Figure = Schema["MeterFigure"];
export type Pressed = Schema["Pressed"];

/** The meters that were added, the ports of the machine that serves, the specifications there are. */
export function useMeters() {
  return useQuery({
    queryKey: keys.meters,
    queryFn: () => call<Schema["MetersOut"]>("/meters"),
    retry: false,
    staleTime: 60_000,
  });
}

/** Ask a meter once what it is and what it shows. */
export function useTryMeter() {
  return useMutation({
    mutationFn: (form: MeterForm) => call<Schema["MeterTried"]>("/meters/test", form),
  });
}

/** What changes the meters: one is added, taken out, left on the source's posts or taken off. */
export function useMeterActs() {
  const queries = useQueryClient();
  const onSuccess = () => queries.invalidateQueries({ queryKey: keys.meters });
  const add = useMutation({
    mutationFn: (form: MeterForm) => call<Schema["MeterAdded"]>("/meters", form),
    onSuccess,
  });
  const remove = useMutation({
    mutationFn: (id: string) => call(`/meters/${id}/remove`, {}),
    onSuccess,
  });
  const leave = useMutation({
    mutationFn: ({ id, on }: { id: string; on: boolean }) => call(`/meters/${id}/source`, { on }),
    onSuccess,
  });
  return { add, remove, leave };
}

/** Take what stands still on a meter now; nothing typed where nothing stands. */
export const press = (id: string) => call<Pressed>(`/meters/${id}/press`, {});
