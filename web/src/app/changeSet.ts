// What one has staged: kept by the server, shown in the tray of every place.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../api/client";
import { accessChanged, queryClient } from "./query";
import { useSession } from "./session";

export type Operation = { kind: string } & Record<string, unknown>;
export type ChangeSet = Shapes["ChangeSetShape"];

const STAGING = ["staging"];

/** Whether whoever is here may stage anything at all. */
export function useMayStage(): boolean {
  const duties = useSession().data?.duties ?? [];
  return ["roles.define", "roles.assign", "limits.set"].some((duty) => duties.includes(duty));
}

export function useChangeSet() {
  const enabled = useMayStage();
  return useQuery({ queryKey: ["change-set"], queryFn: () => answer(api.GET("/api/change-set")), enabled });
}

/** What the staged changes would do to accounts and expectations. */
export function useImpact() {
  // Every change of what is staged moves a position, so a late answer never stands for a later change.
  const staged = useChangeSet().data?.operations.map((operation) => operation.position) ?? [];
  return useQuery({
    queryKey: ["impact", staged.join()],
    queryFn: () => answer(api.GET("/api/change-set/impact")),
    enabled: staged.length > 0,
    placeholderData: (before) => before,
  });
}

async function settled(changeSet: ChangeSet | undefined) {
  if (changeSet) queryClient.setQueryData(["change-set"], changeSet);
  // While keys still follow each other, only the last one fetches everything anew.
  if (queryClient.isMutating({ mutationKey: STAGING }) <= 1) await accessChanged();
}

/** Stage operations, one batch after another. */
export function useStage() {
  return useMutation({
    mutationKey: STAGING,
    scope: { id: "staging" },
    mutationFn: (operations: Operation[]) =>
      answer(api.POST("/api/change-set/operations", { body: { operations } })),
    onSettled: settled,
  });
}

export function useUnstage() {
  return useMutation({
    mutationKey: STAGING,
    scope: { id: "staging" },
    mutationFn: (position: number) =>
      answer(api.DELETE("/api/change-set/operations/{position}", { params: { path: { position } } })),
    onSettled: settled,
  });
}

export function useUndoLast() {
  return useMutation({
    mutationKey: STAGING,
    scope: { id: "staging" },
    mutationFn: () => answer(api.POST("/api/change-set/undo")),
    onSettled: settled,
  });
}

export function useDiscard() {
  return useMutation({
    mutationKey: STAGING,
    scope: { id: "staging" },
    mutationFn: () => answer(api.DELETE("/api/change-set")),
    onSettled: settled,
  });
}

export function useApply() {
  return useMutation({
    mutationKey: STAGING,
    scope: { id: "staging" },
    mutationFn: () => answer(api.POST("/api/change-set/apply")),
    onSettled: () => accessChanged(),
  });
}
