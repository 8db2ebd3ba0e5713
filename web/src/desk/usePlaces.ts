// Making, copying, moving, removing pages and bringing them back; what stands where after that is asked anew.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { queryClient } from "../shared/query";
import type { Page } from "./useDesk";

export type NewKind = Shapes["NewKindShape"];
export type BinRow = Shapes["BinRowShape"];

/** Everything that shows where pages stand. */
export function placesChanged() {
  for (const queryKey of [
    keys.deskTrees,
    keys.bin,
    keys.start,
    keys.offers,
    keys.waiting,
    keys.ledgers,
    ["page"],
    ["branches"],
  ])
    queryClient.invalidateQueries({ queryKey });
}

const tag = (version: number) => ({ "If-Match": `"${version}"` });

export function useNewKinds(parent: string) {
  return useQuery({
    queryKey: keys.newKinds(parent),
    queryFn: () => answer(api.GET("/api/desk/pages/{node}/new", { params: { path: { node: parent } } })),
    enabled: parent !== "",
    retry: false,
    staleTime: 0,
  });
}

export function useMakePage() {
  return useMutation({
    mutationFn: (body: Shapes["MakeInputRequest"]) => answer(api.POST("/api/desk/pages", { body })),
    onSuccess: placesChanged,
  });
}

export function useDuplicate() {
  return useMutation({
    mutationFn: ({ node, beneath }: { node: string; beneath: boolean }) =>
      answer(api.POST("/api/desk/pages/{node}/duplicate", { params: { path: { node } }, body: { beneath } })),
    onSuccess: placesChanged,
  });
}

export function useHandOn(node: string) {
  return useMutation({
    mutationFn: ({ account, version }: { account: string; version: number }) =>
      answer(
        api.POST("/api/desk/pages/{node}/hand-on", {
          params: { path: { node }, header: tag(version) },
          body: { account },
        }),
      ),
    onSuccess: placesChanged,
  });
}

export type Place = { to?: string; before?: string | null };

/** Move a page as it stands now; without a version it is the one that it has when it is asked. */
export function useMove() {
  return useMutation({
    mutationFn: async ({ node, version, ...body }: Place & { node: string; version?: number }) => {
      const known =
        version ?? (await answer(api.GET("/api/desk/pages/{node}", { params: { path: { node } } }))).version;
      return answer(
        api.POST("/api/desk/pages/{node}/move", { params: { path: { node }, header: tag(known) }, body }),
      );
    },
    onSuccess: placesChanged,
  });
}

export function useRemoval(node: string, open: boolean) {
  return useQuery({
    queryKey: keys.removal(node),
    queryFn: () => answer(api.GET("/api/desk/pages/{node}/remove", { params: { path: { node } } })),
    enabled: open,
    staleTime: 0,
  });
}

/** `onRemoved` is called before anything is asked anew: what asked for it may be gone by then. */
export function useRemove(onRemoved: () => void) {
  return useMutation({
    mutationFn: ({ node, version }: { node: string; version: number }) =>
      answer(api.POST("/api/desk/pages/{node}/remove", { params: { path: { node }, header: tag(version) } })),
    onSuccess: () => {
      onRemoved();
      placesChanged();
    },
  });
}

export function useBin() {
  return useQuery({
    queryKey: keys.bin,
    queryFn: () => everyPage((offset) => api.GET("/api/desk/bin", { params: { query: { offset } } })),
  });
}

/** `onBack` is called with the page before anything is asked anew. */
export function useBringBack(onBack: (page: Page) => void = () => {}) {
  return useMutation({
    mutationFn: ({ node, to }: { node: string; to?: string }) =>
      answer(
        api.POST("/api/desk/pages/{node}/restore", {
          params: { path: { node } },
          body: to ? { to } : {},
        }),
      ),
    onSuccess: (page) => {
      onBack(page);
      placesChanged();
    },
  });
}

export function useEmpty() {
  return useMutation({
    mutationFn: (node: string) => answer(api.DELETE("/api/desk/bin/{node}", { params: { path: { node } } })),
    onSuccess: placesChanged,
  });
}

/** One thing with several pages. */
export function useMany() {
  return useMutation({
    mutationFn: (body: Shapes["ManyPagesInputRequest"]) => answer(api.POST("/api/desk/many", { body })),
    onSuccess: placesChanged,
  });
}

export function useStart() {
  return useQuery({ queryKey: keys.start, queryFn: () => answer(api.GET("/api/start")), staleTime: 0 });
}
