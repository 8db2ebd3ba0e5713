// Walk lists: what each role is to be tried on, how far that has come, and who was asked to try it.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../../api/client";
import { keys } from "../keys";
import { queryClient } from "../query";
import { useSession } from "../session";

export type WalkCount = Shapes["WalkCountShape"];
export type WalkList = Shapes["WalkListShape"];
export type WalkItem = Shapes["WalkItemShape"];

export function useWalkLists() {
  return useQuery({ queryKey: keys.walks, queryFn: () => answer(api.GET("/api/walk-lists")) });
}

/** `node` is the page that one is on: what can be tried there is told of it. */
export function useWalkList(id: string, node?: string) {
  return useQuery({
    queryKey: keys.walk(id, node),
    queryFn: () =>
      answer(
        api.GET("/api/walk-lists/{walk_list}", { params: { path: { walk_list: id }, query: { node } } }),
      ),
    enabled: id !== "",
    placeholderData: (before) => (before?.id === id ? before : undefined),
  });
}

/** The list of the role that one rehearses as, where it has one: of several the one that is chosen. */
export function useRehearsedLists(): WalkCount[] {
  const rehearses = useSession().data?.standing_in?.mode === "rehearse";
  const lists = useWalkLists();
  return rehearses ? (lists.data ?? []).filter(({ id, rehearsed }) => id && rehearsed) : [];
}

export function useMakeWalkList() {
  return useMutation({
    mutationFn: (role: string) => answer(api.POST("/api/walk-lists", { body: { role } })),
    onSuccess: keep,
  });
}

export function useDropWalkList(id: string) {
  return useMutation({
    mutationFn: () =>
      answer(api.DELETE("/api/walk-lists/{walk_list}", { params: { path: { walk_list: id } } })),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: keys.walks, exact: true }),
  });
}

export function useGiveWalkList(id: string) {
  return useMutation({
    mutationFn: (body: { account: string; word: string }) =>
      answer(api.POST("/api/walk-lists/{walk_list}/given", { params: { path: { walk_list: id } }, body })),
    onSuccess: keep,
  });
}

export function useTakeWalkListBack(id: string) {
  return useMutation({
    mutationFn: (account: string) =>
      answer(
        api.DELETE("/api/walk-lists/{walk_list}/given/{account}", {
          params: { path: { walk_list: id, account } },
        }),
      ),
    onSuccess: keep,
  });
}

function keep(list: WalkList) {
  queryClient.setQueryData(keys.walk(list.id ?? ""), list);
  return queryClient.invalidateQueries({ queryKey: keys.walks, exact: true });
}

/** Try something that no screen offers. What comes of it is told by the list: to be refused is what it is for. */
export function useAttempt() {
  return useMutation({
    mutationFn: async ({ attempt, page }: { attempt: NonNullable<WalkItem["attempt"]>; page: string }) => {
      const seen = await api.GET("/api/desk/pages/{node}", { params: { path: { node: page } } });
      const tag = seen.response.headers.get("ETag");
      const [path, method] = [attempt.path as "/api/begin", attempt.method.toLowerCase() as "get"];
      await api.request(method, path, {
        ...(attempt.body === null ? {} : { body: attempt.body }),
        headers: tag ? { "If-Match": tag } : {},
      } as Record<string, unknown>);
    },
    onSettled: () => queryClient.invalidateQueries({ queryKey: keys.walks }),
  });
}
