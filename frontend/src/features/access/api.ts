import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { call, type Schema, sentence } from "../../api/client";
import { keys } from "../../api/keys";
import { paired, removed } from "../../api/reach";
import { sayWhoReads } from "../../api/who";
import { useSay } from "../../ui/told/Notices";

export type Access = Schema["AccessOut"];
export type Network = Schema["NetworkOut"];
export type Device = Schema["DeviceOut"];
export type Code = Schema["CodeOut"];

/** How this page stands: at the machine itself or on the network, paired or not. */
export function useAccess() {
  return useQuery({ queryKey: keys.access, queryFn: () => call<Access>("/access") });
}

/** The local network's door and the devices that are paired; asked again, so that a new one shows. */
export function useNetwork(enabled: boolean) {
  return useQuery({
    queryKey: keys.network,
    queryFn: () => call<Network>("/access/network"),
    refetchInterval: 3000,
    enabled,
  });
}

/** Pair this device; everything that was refused before is asked again. */
export function usePair() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (body: Schema["PairIn"]) => call<Access>("/access/pair", body),
    onSuccess: async (now) => {
      sayWhoReads(now.person);
      queries.setQueryData(keys.access, now);
      paired.set(true);
      await queries.invalidateQueries();
    },
  });
}

/** Unpair this device. */
export function useLeave() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: () => call<Access>("/access/leave", {}),
    onSuccess: () => {
      queries.clear();
      paired.set(false);
      removed.set(true);
    },
  });
}

/** A thing done to the door that answers with how it stands then. */
function useDoorAct<Asked>(act: (asked: Asked) => Promise<Network>) {
  const queries = useQueryClient();
  const say = useSay();
  return useMutation({
    mutationFn: act,
    onSuccess: (now) => queries.setQueryData(keys.network, now),
    onError: (error) => say(sentence(error), { bad: true }),
  });
}

export const useSwitch = () =>
  useDoorAct((open: boolean) => call<Network>("/access/network", { open }));
export const useRename = () =>
  useDoorAct(({ id, name, person }: Pick<Device, "id" | "name" | "person">) =>
    call<Network>(`/access/devices/${id}`, { name, person }),
  );
export const useThrowOut = () =>
  useDoorAct((id: string) => call<Network>(`/access/devices/${id}`, undefined, "DELETE"));

/** A new passphrase: one's own, or four words made up. It is shown this once. */
export function useNewPassphrase() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (passphrase: string | null) =>
      call<Schema["PassphraseOut"]>("/access/passphrase", { passphrase }),
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.network }),
  });
}

/** A code for one more phone. */
export function useNewCode() {
  const say = useSay();
  return useMutation({
    mutationFn: () => call<Code>("/access/codes", {}),
    onError: (error) => say(sentence(error), { bad: true }),
  });
}
