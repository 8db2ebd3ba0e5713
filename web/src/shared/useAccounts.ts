// The roster a page at a time, and one account with all it is given.
import { useInfiniteQuery, useMutation, useQuery } from "@tanstack/react-query";
import { answer, answerWithTag, api, everyPage, type Shapes } from "../api/client";
import { keys } from "./keys";
import { accessChanged, queryClient } from "./query";
import type { Who } from "./who";

export type RosterRow = Shapes["RosterRowShape"];
export type AccountData = Shapes["AccountShape"];
export type Given = Shapes["GivenShape"];
export type Group = Shapes["GroupShape"];
export type Show = "" | "desk" | "visitors" | "ends" | "look" | "invited" | "disabled";
export type Sort = "name" | "seen" | "ends" | "state" | "made";
export type RosterFilter = { search: string; role: string; group: string; state: string; show?: Show };
export type RosterOrder = { sort?: Sort; down?: boolean };

const PAGE = 200;

export function useRoster({ show, ...filter }: RosterFilter, order: RosterOrder = {}) {
  const asked = { ...filter, ...order, ...(show ? { show } : {}) };
  return useInfiniteQuery({
    queryKey: keys.roster(asked),
    queryFn: ({ pageParam }) =>
      answer(api.GET("/api/accounts", { params: { query: { ...asked, limit: PAGE, offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => (pages.length * PAGE < last.count ? pages.length * PAGE : undefined),
    placeholderData: (before) => before,
  });
}

/** An account, and the tag to send when it is changed. */
export function useTaggedAccount(account: string) {
  return useQuery({
    queryKey: keys.account(account),
    queryFn: () => answerWithTag(api.GET("/api/accounts/{account}", { params: { path: { account } } })),
    enabled: account !== "",
  });
}

export function useAccount(account: string) {
  const { data, ...rest } = useTaggedAccount(account);
  return { ...rest, data: data?.data };
}

export function useWhere(account: string) {
  return useQuery({
    queryKey: keys.where(account),
    queryFn: () =>
      everyPage((offset) =>
        api.GET("/api/accounts/{account}/where", { params: { path: { account }, query: { offset } } }),
      ),
  });
}

export function useGroups() {
  return useQuery({
    queryKey: keys.groups,
    queryFn: () => everyPage((offset) => api.GET("/api/groups", { params: { query: { offset } } })),
  });
}

export function useSites() {
  return useQuery({
    queryKey: keys.sites,
    queryFn: () => everyPage((offset) => api.GET("/api/sites", { params: { query: { offset } } })),
  });
}

export function useTopics() {
  return useQuery({
    queryKey: keys.topics,
    queryFn: () => everyPage((offset) => api.GET("/api/topics", { params: { query: { offset } } })),
  });
}

/** Who an account is, saved at once on top of the version that was read. */
export function useChangeAccount(account: string, tag: string) {
  return useMutation({
    mutationFn: (who: Partial<Who>) =>
      answer(
        api.PATCH("/api/accounts/{account}", {
          params: { path: { account }, header: { "If-Match": tag } },
          body: who as Shapes["PatchedAccountChangeInputRequest"],
        }),
      ),
    onSettled: () => accessChanged(),
  });
}

/** Take the second factors of somebody away who has lost them. */
export function useRemoveFactors(account: string) {
  return useMutation({
    mutationFn: () =>
      answer(api.DELETE("/api/accounts/{account}/factors", { params: { path: { account } } })),
    onSuccess: () => accessChanged(),
  });
}

/** Let a new address go that waits to be confirmed. */
export function useLetAddressGo(account: string) {
  return useMutation({
    mutationFn: () =>
      answer(api.DELETE("/api/accounts/{account}/new-address", { params: { path: { account } } })),
    onSettled: () => accessChanged(),
  });
}

export function useInviteAgain(account: string) {
  return useMutation({
    mutationFn: (message: string) =>
      answer(
        api.POST("/api/accounts/{account}/invitation", { params: { path: { account } }, body: { message } }),
      ),
  });
}

export function useSendReset(account: string) {
  return useMutation({
    mutationFn: () =>
      answer(api.POST("/api/accounts/{account}/password-reset", { params: { path: { account } } })),
  });
}

export function useLeaving(account: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.leaving(account),
    queryFn: () => answer(api.GET("/api/accounts/{account}/leaving", { params: { path: { account } } })),
    enabled,
  });
}

export function useDisable(account: string) {
  return useMutation({
    mutationFn: (body: Shapes["DisableInputRequest"]) =>
      answer(api.POST("/api/accounts/{account}/disable", { params: { path: { account } }, body })),
    onSuccess: () => accessChanged(),
  });
}

export function useEnable(account: string) {
  return useMutation({
    mutationFn: () => answer(api.POST("/api/accounts/{account}/enable", { params: { path: { account } } })),
    onSuccess: () => accessChanged(),
  });
}

export function useGroup(group: string) {
  return useQuery({
    queryKey: keys.group(group),
    queryFn: () => answerWithTag(api.GET("/api/groups/{group}", { params: { path: { group } } })),
    enabled: group !== "",
  });
}

export function useMakeGroup() {
  return useMutation({
    mutationFn: (body: Shapes["GroupInputRequest"]) => answer(api.POST("/api/groups", { body })),
    onSuccess: () => accessChanged(),
  });
}

export function useRenameGroup(group: string, tag: string) {
  return useMutation({
    mutationFn: (name: string) =>
      answer(
        api.PATCH("/api/groups/{group}", {
          params: { path: { group }, header: { "If-Match": tag } },
          body: { name },
        }),
      ),
    onSettled: () => accessChanged(),
  });
}

export function useKeptViews() {
  return useQuery({ queryKey: keys.keptViews, queryFn: () => answer(api.GET("/api/roster-views")) });
}

const viewsChanged = () => queryClient.invalidateQueries({ queryKey: keys.keptViews });

export function useKeepView() {
  return useMutation({
    mutationFn: (body: { name: string; query: string }) => answer(api.POST("/api/roster-views", { body })),
    onSuccess: viewsChanged,
  });
}

export function useDropView() {
  return useMutation({
    mutationFn: (view: string) =>
      answer(api.DELETE("/api/roster-views/{view}", { params: { path: { view } } })),
    onSuccess: viewsChanged,
  });
}
