// Taking people on: what is asked for, what it would come to, and doing it.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../../api/client";
import { keys } from "../../shared/keys";
import { accessChanged } from "../../shared/query";
import type { Scope } from "../../shared/scope/scope";
import { useSettled } from "../../shared/useSettled";

export type Held = { role: string; scope: Scope; starts: string | null; ends: string | null };

export type Asked = {
  people: { name: string; email: string }[];
  language: string;
  how: "invite" | "password";
  message: string;
  groups: string[];
  roles: Held[];
};

export const NOBODY_YET: Asked = {
  people: [{ name: "", email: "" }],
  language: "en",
  how: "invite",
  message: "",
  groups: [],
  roles: [],
};

export type TakenOn = Shapes["TakenOnShape"];

export function useTakeOn() {
  return useMutation({
    mutationFn: (body: Asked) =>
      answer(api.POST("/api/accounts", { body: body as Shapes["TakeOnInputRequest"] })),
    onSuccess: () => accessChanged(),
  });
}

/** What whoever is given this will be able to do. */
export function useWillBeAble({ groups, roles }: Pick<Asked, "groups" | "roles">) {
  const asked = useSettled(JSON.stringify({ groups, roles }));
  return useQuery({
    queryKey: keys.foreseen(["taking on", asked]),
    queryFn: () => answer(api.POST("/api/accounts/foreseen", { body: JSON.parse(asked) })),
    placeholderData: (before) => before,
    retry: false,
  });
}

/** Whether an address can be had, asked once it looks like one. */
export function useAddress(email: string) {
  const settled = useSettled(email.trim());
  const asked = useQuery({
    queryKey: ["address", settled],
    queryFn: () => answer(api.POST("/api/accounts/address", { body: { email: settled } })),
    enabled: /^\S+@\S+\.\S+$/.test(settled),
    retry: false,
  });
  return settled === email.trim() ? asked.data : undefined;
}

/** The invitation as it would be sent. */
export function useLetter(name: string, message: string) {
  const asked = { name: useSettled(name), message: useSettled(message) };
  return useQuery({
    queryKey: ["letter", asked],
    queryFn: () => answer(api.POST("/api/accounts/letter", { body: asked })),
    enabled: asked.name.trim() !== "",
    placeholderData: (before) => before,
    retry: false,
  });
}

/** Takes all of it back, as one. */
export function useTakeBack(changeSet: string) {
  return useMutation({
    mutationFn: () =>
      answer(api.POST("/api/change-sets/{change_set}/undo", { params: { path: { change_set: changeSet } } })),
    onSuccess: () => accessChanged(),
  });
}
