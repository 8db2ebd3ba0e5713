// What one has staged: kept by the server, shown in the tray of every place.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../../api/client";
import { keys } from "../keys";
import { accessChanged, queryClient, stagingChanged } from "../query";
import { useSession } from "../session";

/** One change of access, as it is staged: told apart by its `kind`. */
export type Operation = Shapes["OperationRequest"];
export type ChangeSet = Shapes["ChangeSetShape"];

const STAGING = ["staging"];

/** Whether whoever is here may stage anything at all. */
export function useMayStage(): boolean {
  const duties = useSession().data?.duties ?? [];
  return ["roles.define", "roles.assign", "limits.set", "accounts.disable"].some((duty) =>
    duties.includes(duty),
  );
}

export function useChangeSet() {
  const enabled = useMayStage();
  return useQuery({ queryKey: keys.changeSet, queryFn: () => answer(api.GET("/api/change-set")), enabled });
}

/** What is staged, as a key. Every change moves a position, so a late answer never stands for a later change. */
function useStagedKey(): string {
  const changeSet = useChangeSet().data;
  return changeSet?.operations.map((operation) => operation.position).join() ?? "";
}

/** For how many accounts the staged changes would turn anything, and how many expectations they would break. */
export function useTouched() {
  const staged = useStagedKey();
  return useQuery({
    queryKey: keys.touched(staged),
    queryFn: () => answer(api.GET("/api/change-set/touched")),
    enabled: staged !== "",
    placeholderData: (before) => before,
  });
}

/** What the staged changes would do, and how much of it; asked once somebody looks. */
export function useImpact(enabled: boolean) {
  const staged = useStagedKey();
  return useQuery({
    queryKey: keys.impact(staged),
    queryFn: () => answer(api.GET("/api/change-set/impact")),
    enabled: enabled && staged !== "",
    placeholderData: (before) => before,
  });
}

async function settled(changeSet: ChangeSet | undefined) {
  // Positions begin anew in another change set: what an earlier one would have done must not stand for it.
  queryClient.removeQueries({ queryKey: keys.impacts, type: "inactive" });
  if (changeSet) queryClient.setQueryData(keys.changeSet, changeSet);
  // While keys still follow each other, only the last one fetches everything anew.
  if (queryClient.isMutating({ mutationKey: STAGING }) <= 1) await stagingChanged();
}

/** A mutation of what is staged, one after another; `after` fetches what it may have changed. */
function useStaging<Given, Found>(
  mutationFn: (given: Given) => Promise<Found>,
  after: (found: Found | undefined) => unknown,
) {
  return useMutation({ mutationKey: STAGING, scope: { id: "staging" }, mutationFn, onSettled: after });
}

/** Stage operations, one batch after another. */
export function useStage() {
  return useStaging(
    (operations: Operation[]) => answer(api.POST("/api/change-set/operations", { body: { operations } })),
    settled,
  );
}

export function useUnstage() {
  return useStaging(
    (position: number) =>
      answer(api.DELETE("/api/change-set/operations/{position}", { params: { path: { position } } })),
    settled,
  );
}

export function useUndoLast() {
  return useStaging(() => answer(api.POST("/api/change-set/undo")), settled);
}

export function useDiscard() {
  return useStaging(() => answer(api.DELETE("/api/change-set")), settled);
}

export function useApply() {
  return useStaging(
    () => answer(api.POST("/api/change-set/apply")),
    () => accessChanged(),
  );
}

/** Mean one's own word on top of what somebody else applied meanwhile. */
export function useRebase() {
  return useStaging(
    (position: number) =>
      answer(api.POST("/api/change-set/operations/{position}/rebase", { params: { path: { position } } })),
    settled,
  );
}

/** Put what is staged aside under a name. */
export function usePutAside() {
  return useStaging(
    (name: string) => answer(api.POST("/api/change-set/put-aside", { body: { name } })),
    settled,
  );
}

/** Go on with a change set that was put aside. */
export function useTakeUp() {
  return useStaging(
    (change_set: string) =>
      answer(api.POST("/api/change-sets/{change_set}/take-up", { params: { path: { change_set } } })),
    settled,
  );
}

/** Take back an applied change set as one. */
export function useUndoApplied() {
  return useStaging(
    (change_set: string) =>
      answer(api.POST("/api/change-sets/{change_set}/undo", { params: { path: { change_set } } })),
    () => accessChanged(),
  );
}

/** For whom something would turn, and what; fetched once somebody looks. */
export function useImpactAccounts(enabled: boolean) {
  const staged = useStagedKey();
  return useQuery({
    queryKey: keys.impactAccounts(staged),
    queryFn: () => answer(api.GET("/api/change-set/impact/accounts", { params: { query: { limit: 200 } } })),
    enabled: enabled && staged !== "",
  });
}

const MOST_PAGES = 20;

/** Where one thing would turn for anybody: the first pages, and how many there are in all. */
export function useImpactPages(key: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.impactPages(key),
    queryFn: async () => {
      const query = { key, limit: MOST_PAGES };
      const asked = await api.GET("/api/change-set/impact/pages", { params: { query } });
      const pages = await answer(Promise.resolve(asked));
      return { pages, total: Number(asked.response.headers.get("Total-Count") ?? pages.length) };
    },
    enabled,
  });
}

/** Where one thing would turn for one account. */
export function useImpactNodes(account: string | null, key: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.impactNodes(account, key),
    queryFn: () =>
      answer(
        api.GET("/api/change-set/impact/nodes", {
          params: { query: { key, account: account ?? undefined } },
        }),
      ),
    enabled,
  });
}

/** The ids of change sets that are applied and not undone. */
export function useApplied(): Set<string> {
  const enabled = useMayStage();
  const applied = useQuery({
    queryKey: keys.changeSets,
    queryFn: () => answer(api.GET("/api/change-sets", { params: { query: { limit: 1000 } } })),
    enabled,
  });
  return new Set(applied.data?.map(({ id }) => id));
}

/** Stage all that taking a role away needs, its holders handed to another role if one is named. */
export function useStageRemoval(role: string) {
  return useStaging(
    (hand_to: string | null) =>
      answer(api.POST("/api/roles/{role}/removal", { params: { path: { role } }, body: { hand_to } })),
    settled,
  );
}

/** Stage something for many accounts at once. */
/** How far one's own staging or applying has come, asked again and again while it is under way. */
export function useProgress(underWay: boolean) {
  return useQuery({
    queryKey: keys.progress,
    queryFn: () => answer(api.GET("/api/change-set/progress")),
    enabled: underWay,
    refetchInterval: 500,
    gcTime: 0,
  });
}

export function useStageMany() {
  return useStaging(
    (body: Shapes["ManyInputRequest"]) => answer(api.POST("/api/accounts/many", { body })),
    settled,
  );
}

/** Stage all that ends a group. */
export function useStageGroupEnding(group: string) {
  return useStaging(
    () => answer(api.POST("/api/groups/{group}/ending", { params: { path: { group } } })),
    settled,
  );
}

/** Whom some operations would touch by themselves; nothing is staged. */
export function useOperationsTouched(operations: Operation[], enabled: boolean) {
  return useQuery({
    queryKey: keys.operationsPreview(operations),
    queryFn: () => answer(api.POST("/api/change-set/preview/touched", { body: { operations } })),
    enabled,
    placeholderData: (before) => before,
    retry: false,
  });
}
