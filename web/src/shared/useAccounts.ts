// The roster a page at a time, and one account with all it is given.
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "./keys";

export type RosterRow = Shapes["RosterRowShape"];
export type AccountData = Shapes["AccountShape"];
export type Given = Shapes["GivenShape"];
export type RosterFilter = { search: string; role: string; group: string; state: string };

const PAGE = 200;

export function useRoster(filter: RosterFilter) {
  return useInfiniteQuery({
    queryKey: keys.roster(filter),
    queryFn: ({ pageParam }) =>
      answer(api.GET("/api/accounts", { params: { query: { ...filter, limit: PAGE, offset: pageParam } } })),
    initialPageParam: 0,
    getNextPageParam: (last, pages) => (pages.length * PAGE < last.count ? pages.length * PAGE : undefined),
    placeholderData: (before) => before,
  });
}

export function useAccount(account: string) {
  return useQuery({
    queryKey: keys.account(account),
    queryFn: () => answer(api.GET("/api/accounts/{account}", { params: { path: { account } } })),
    enabled: account !== "",
  });
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
