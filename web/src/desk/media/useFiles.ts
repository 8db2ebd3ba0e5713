// The files of a folder, what uses one, and putting another in its place.
import { useInfiniteQuery, useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../../api/client";
import { keys } from "../../shared/keys";
import { queryClient } from "../../shared/query";
import { type Page, sendFile } from "./upload";

export type FileRow = Shapes["FileRowShape"];
export type Only = "" | "wordless" | "mine";

const PAGE = 60;

export function useFiles(folder: string, words: string, only: Only) {
  const query = { ...(words ? { words } : {}), ...(only ? { only } : {}) };
  return useInfiniteQuery({
    queryKey: keys.filesIn(folder, query),
    initialPageParam: 0,
    queryFn: async ({ pageParam }) => {
      const asked = api.GET("/api/desk/media/{node}/files", {
        params: { path: { node: folder }, query: { ...query, limit: PAGE, offset: pageParam } },
      });
      const rows: FileRow[] = await answer(asked);
      return { rows, total: Number((await asked).response.headers.get("Total-Count")) };
    },
    getNextPageParam: ({ total }, pages) => {
      const shown = pages.reduce((sum, { rows }) => sum + rows.length, 0);
      return shown < total ? shown : undefined;
    },
    placeholderData: (before) => before,
  });
}

export function useFile(node: string) {
  return useQuery({
    queryKey: keys.file(node),
    queryFn: () => answer(api.GET("/api/desk/media/{node}", { params: { path: { node } } })),
  });
}

/** Puts another file in the place of the one that a picture or document has. */
export function useReplace(page: Page, onSent: (share: number) => void) {
  return useMutation({
    mutationFn: (file: File) => {
      const data = new FormData();
      data.set("file", file);
      return sendFile(`/api/desk/media/${page.id}/replace`, { data, tag: `"${page.version}"`, onSent });
    },
    onSuccess: (now) => {
      queryClient.setQueryData(keys.page(page.id), now);
      return queryClient.invalidateQueries({ queryKey: keys.files });
    },
  });
}

/** The address of a picture at least so wide; a new version of it is fetched anew. */
export function pictureAt(node: string, version: number, width?: number): string {
  return `/files/${node}?v=${version}${width ? `&width=${width}` : ""}`;
}
