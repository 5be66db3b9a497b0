import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { call, type Schema } from "../../api/client";
import { keys } from "../../api/keys";

export type Lists = Schema["ListsOut"];

/**
 * The wire list and the buying list of a craft; the last stay while the next are on their way.
 *
 * @param words what is asked, as the address says it: `stage`, `whole`, and each `run`.
 */
export function useLists(job: string, words: string) {
  return useQuery({
    queryKey: keys.lists(job, words),
    queryFn: () => call<Lists>(`/jobs/${job}/lists?${words}`),
    placeholderData: keepPreviousData,
  });
}
