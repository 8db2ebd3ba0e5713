// Extensions and markup sets: reading, switching, making and changing them.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { accessChanged, queryClient } from "../shared/query";

export type Extension = Shapes["ExtensionShape"];
export type MarkupSet = Shapes["MarkupSetShape"];
export type Markup = Shapes["MarkupInputRequest"];

async function catalogueChanged() {
  for (const queryKey of [keys.catalogue, keys.extensions, keys.markupSets])
    queryClient.invalidateQueries({ queryKey });
  await accessChanged();
}

export function useExtensions() {
  return useQuery({
    queryKey: keys.extensions,
    queryFn: () => everyPage((offset) => api.GET("/api/extensions", { params: { query: { offset } } })),
  });
}

/** For whom anything would change if an extension were switched the other way. */
export function useSwitched(extension: string, enabled: boolean) {
  return useQuery({
    queryKey: keys.switched(extension),
    queryFn: () =>
      answer(api.GET("/api/extensions/{extension}/switched", { params: { path: { extension } } })),
    enabled,
    staleTime: 0,
  });
}

export function useSwitchExtension() {
  return useMutation({
    mutationFn: ({ key, on }: { key: string; on: boolean }) =>
      answer(api.PUT("/api/extensions/{extension}", { params: { path: { extension: key } }, body: { on } })),
    onSettled: catalogueChanged,
  });
}

export function useMarkupSets() {
  return useQuery({
    queryKey: keys.markupSets,
    queryFn: () => everyPage((offset) => api.GET("/api/markup-sets", { params: { query: { offset } } })),
  });
}

/** Make a set, or change one on top of the version that was read. */
export function useSaveMarkup(set: MarkupSet | null) {
  return useMutation({
    mutationFn: (markup: Markup) =>
      answer(
        set === null
          ? api.POST("/api/markup-sets", { body: markup })
          : api.PUT("/api/markup-sets/{markup_set}", {
              params: { path: { markup_set: set.key }, header: { "If-Match": `"${set.version}"` } },
              body: markup,
            }),
      ),
    onSettled: catalogueChanged,
  });
}

export function useDropMarkup() {
  return useMutation({
    mutationFn: (markup_set: string) =>
      answer(api.DELETE("/api/markup-sets/{markup_set}", { params: { path: { markup_set } } })),
    onSettled: catalogueChanged,
  });
}

/** How risky a set would be as it stands in the dialog. */
export function useMarkupRisk(markup: Markup) {
  return useQuery({
    queryKey: keys.markupRisk(markup),
    queryFn: () => answer(api.POST("/api/markup-sets/risk", { body: markup })),
    placeholderData: (before) => before,
    retry: false,
  });
}
