// Expectations: how each stands, in pages; asking them again, recording and dropping them, what broke one.
import {
  keepPreviousData,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { answer, api, type Shapes } from "../../api/client";
import { keys } from "../keys";
import { accessChanged } from "../query";

export type Expectation = Shapes["ExpectationShape"];
export type Filter = { breaks: boolean; group: string; words: string };

const PAGE = 100;

/** Those that match, so many at a time: what breaks comes first. */
export function useExpectations(filter: Filter) {
  return useInfiniteQuery({
    queryKey: keys.expectationsLike(filter),
    initialPageParam: 0,
    placeholderData: keepPreviousData,
    queryFn: ({ pageParam }) => page(filter, pageParam),
    getNextPageParam: ({ total }, pages) => {
      const shown = pages.reduce((sum, { rows }) => sum + rows.length, 0);
      return shown < total ? shown : undefined;
    },
  });
}

async function page({ breaks, group, words }: Filter, offset: number) {
  const query = {
    limit: PAGE,
    offset,
    ...(breaks ? { breaks } : {}),
    ...(group ? { group } : {}),
    ...(words ? { words } : {}),
  };
  const asked = await api.GET("/api/expectations", { params: { query } });
  const rows = await answer(Promise.resolve(asked));
  return { rows, total: Number(asked.response.headers.get("Total-Count") ?? rows.length) };
}

/** The groups, and how many expectations there are and break. */
export function useExpectationGroups(enabled = true) {
  return useQuery({
    queryKey: keys.expectationGroups,
    queryFn: () => answer(api.GET("/api/expectations/groups")),
    enabled,
  });
}

/** All of them asked anew; how many milliseconds that took. */
export function useAskAgain() {
  const client = useQueryClient();
  return useMutation({
    mutationFn: async () => {
      const asked = await api.GET("/api/expectations", { params: { query: { limit: 1, anew: true } } });
      await answer(Promise.resolve(asked));
      return Number(/dur=([\d.]+)/.exec(asked.response.headers.get("Server-Timing") ?? "")?.[1] ?? 0);
    },
    onSuccess: () => client.invalidateQueries({ queryKey: keys.expectations }),
  });
}

export function useWhatBroke(expectation: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.broke(expectation),
    queryFn: () =>
      answer(api.GET("/api/expectations/{expectation}/broke", { params: { path: { expectation } } })),
    enabled,
  });
}

/** What a role was made for, that holds and is not recorded yet. */
export function useSuggested(role: string) {
  return useQuery({
    queryKey: keys.suggested(role),
    queryFn: () => answer(api.GET("/api/expectations/suggested", { params: { query: { role } } })),
  });
}

export function useRecordExpectation() {
  return useMutation({
    mutationFn: (body: Shapes["ExpectationInputRequest"]) => answer(api.POST("/api/expectations", { body })),
    onSuccess: () => accessChanged(),
  });
}

/** The same while standing in: what one sees there is noted in earnest, also where one rehearses. */
export function useExpectThis() {
  return useMutation({
    mutationFn: (body: Shapes["ExpectationInputRequest"]) =>
      answer(api.POST("/api/expectations", { body, params: { header: { "In-Earnest": "yes" } } })),
    onSuccess: () => accessChanged(),
  });
}

/** An answer, as it was asked and told, as what should stay so. */
export function staysSo(asked: Record<string, unknown>, allow: boolean): Shapes["ExpectationInputRequest"] {
  return { note: "", ...asked, expect: allow ? "allow" : "deny" } as Shapes["ExpectationInputRequest"];
}

export function useDropExpectation() {
  return useMutation({
    mutationFn: (expectation: string) =>
      answer(api.DELETE("/api/expectations/{expectation}", { params: { path: { expectation } } })),
    onSuccess: () => accessChanged(),
  });
}
