// The desk's data: a page and saving it, and what the X-ray shows of it.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, ProblemError, type Shapes } from "../api/client";
import { keys } from "../shared/keys";
import { queryClient } from "../shared/query";
import { useDuty } from "../shared/session";

export type Page = Shapes["PageShape"];
export type PageComponent = Shapes["PageComponentShape"];
export type PageField = Shapes["PageFieldShape"];
export type Ghost = Shapes["GhostShape"];

const pageQuery = (node: string) => ({
  queryKey: keys.page(node),
  queryFn: () => answer(api.GET("/api/desk/pages/{node}", { params: { path: { node } } })),
  retry: false,
});

export function usePage(node: string) {
  return useQuery({ ...pageQuery(node), enabled: node !== "" });
}

/** A page as far as it was read already, and when it last was, or was refused to be; without reading it. */
export function usePageKept(node: string): { page: Page | undefined; readAt: number } {
  const { data, dataUpdatedAt, errorUpdatedAt } = useQuery({ ...pageQuery(node), enabled: false });
  return { page: data, readAt: Math.max(dataUpdatedAt, errorUpdatedAt) };
}

/** What is asked of a page, or of its working copy. */
export type Version = Pick<Page, "id" | "title" | "tag" | "working">;

function keep(page: Page) {
  queryClient.setQueryData(page.working ? keys.workingCopy(page.id) : keys.page(page.id), page);
  const beside = page.working ? keys.page(page.id) : keys.workingCopy(page.id);
  queryClient.invalidateQueries({ queryKey: beside, exact: true });
  queryClient.invalidateQueries({ queryKey: keys.workingCopyChanges(page.id) });
  for (const queryKey of [keys.deskTrees, keys.start, keys.offers, keys.waiting, keys.ledgers])
    queryClient.invalidateQueries({ queryKey });
}

const tag = (version: number | string) => ({ "If-Match": `"${version}"` });

export type Edits = {
  title: string;
  topics: string[];
  values: Record<string, unknown>;
  components: PageComponent[];
};

/** What is sent of some edits: only what changed, and of parts of the page only what one may say of them. */
export function bodyOf(edits: Partial<Edits>): Shapes["PageInputRequest"] {
  return { ...edits, components: edits.components?.map(({ id, kind, props }) => ({ id, kind, props })) };
}

/** Save what changed. A save over someone else's ends in a problem that holds theirs. */
export function useSavePage({ id: node, working }: Version) {
  return useMutation({
    mutationFn: ({ edits, tag: on, sitting }: { edits: Partial<Edits>; tag: string; sitting: boolean }) => {
      const asked = {
        params: { path: { node }, header: tag(on) },
        body: { ...bodyOf(edits), sitting },
      };
      return answer(
        working
          ? api.PATCH("/api/desk/pages/{node}/copy", asked)
          : api.PATCH("/api/desk/pages/{node}", asked),
      );
    },
    onSuccess: keep,
  });
}

/** The page with some edits as visitors would read it. */
export function usePreview({ id: node, working }: Version) {
  return useMutation({
    mutationFn: (edits: Partial<Edits>) => {
      const asked = { params: { path: { node } }, body: bodyOf(edits) };
      return answer(
        working
          ? api.POST("/api/desk/pages/{node}/copy/preview", asked)
          : api.POST("/api/desk/pages/{node}/preview", asked),
      );
    },
  });
}

export type Step = "take-back" | "publish" | "retire" | "to-draft";

type MoveOn = { step: Step; although_unseen?: boolean; over?: number };

/** Take a page or its working copy back that was handed in, publish it, retire a page, or make a draft of it again. */
export function useMovePageOn(page: Version) {
  const { id: node, working } = page;
  return useMutation({
    mutationFn: ({ step, although_unseen = false, over }: MoveOn) => {
      const asked = { params: { path: { node }, header: tag(page.tag) } };
      if (working && step === "publish")
        return answer(api.POST("/api/desk/pages/{node}/copy/publish", { ...asked, body: { over } }));
      if (working) return answer(api.POST("/api/desk/pages/{node}/copy/take-back", asked));
      if (step === "publish")
        return answer(api.POST("/api/desk/pages/{node}/publish", { ...asked, body: { although_unseen } }));
      if (step === "take-back") return answer(api.POST("/api/desk/pages/{node}/take-back", asked));
      if (step === "to-draft") return answer(api.POST("/api/desk/pages/{node}/to-draft", asked));
      return answer(api.POST("/api/desk/pages/{node}/retire", asked));
    },
    onSuccess: keep,
  });
}

/** Hand a page or its working copy in for review, with a word if one likes. */
export function useHandIn({ id: node, tag: on, working }: Version) {
  return useMutation({
    mutationFn: (note: string) => {
      const asked = { params: { path: { node }, header: tag(on) }, body: { note } };
      return answer(
        working
          ? api.POST("/api/desk/pages/{node}/copy/hand-in", asked)
          : api.POST("/api/desk/pages/{node}/hand-in", asked),
      );
    },
    onSuccess: keep,
  });
}

/** Give one back that was handed in, with a note to whoever wrote it. */
export function useReturn({ id: node, tag: on, working }: Version) {
  return useMutation({
    mutationFn: (note: string) => {
      const asked = { params: { path: { node }, header: tag(on) }, body: { note } };
      return answer(
        working
          ? api.POST("/api/desk/pages/{node}/copy/return", asked)
          : api.POST("/api/desk/pages/{node}/return", asked),
      );
    },
    onSuccess: keep,
  });
}

/** The page as its working copy has it; where there is none yet, as saving would begin it. */
export function useWorkingCopy(node: string, on: boolean) {
  return useQuery({
    queryKey: keys.workingCopy(node),
    queryFn: () => answer(api.GET("/api/desk/pages/{node}/copy", { params: { path: { node } } })),
    enabled: on,
    retry: false,
  });
}

/** Give a working copy up. */
export function useDiscardCopy({ id: node, tag: on }: Version) {
  return useMutation({
    mutationFn: () =>
      answer(api.DELETE("/api/desk/pages/{node}/copy", { params: { path: { node }, header: tag(on) } })),
    onSuccess: () => {
      for (const queryKey of [
        keys.workingCopy(node),
        keys.page(node),
        keys.start,
        keys.waiting,
        keys.ledgers,
      ])
        queryClient.invalidateQueries({ queryKey });
    },
  });
}

/** The saves of a page or its working copy, asked for again whenever it is saved. */
export function useVersions({ id: node, tag: on, working }: Page) {
  return useQuery({
    queryKey: keys.versions(node, on),
    queryFn: () =>
      everyPage((offset) => {
        const asked = { params: { path: { node }, query: { offset } } };
        return working
          ? api.GET("/api/desk/pages/{node}/copy/versions", asked)
          : api.GET("/api/desk/pages/{node}/versions", asked);
      }),
    placeholderData: (before) => before,
    staleTime: 0,
  });
}

/** A version with what its save changed, what changed since, and what differs from another one. */
export function useVersion({ id: node, tag: on, working }: Page, number: number, other: number) {
  const asked = { params: { path: { node, number }, query: { with: other } } };
  return useQuery({
    queryKey: keys.version(node, on, number, other),
    queryFn: () =>
      answer(
        working
          ? api.GET("/api/desk/pages/{node}/copy/versions/{number}", asked)
          : api.GET("/api/desk/pages/{node}/versions/{number}", asked),
      ),
    placeholderData: (before) => before,
    staleTime: 0,
  });
}

/** Bring an earlier version back, on top of the page as it was seen. */
export function useRestore(node: string) {
  return useMutation({
    mutationFn: ({ number, version }: { number: number; version: number }) =>
      answer(
        api.POST("/api/desk/pages/{node}/versions/{number}/restore", {
          params: { path: { node, number }, header: tag(version) },
        }),
      ),
    onSuccess: keep,
  });
}

/** Theirs, when someone else saved the page meanwhile. */
export function theirs(error: unknown): Page | null {
  return error instanceof ProblemError && error.problem.status === 412
    ? (error.problem.theirs as Page)
    : null;
}

export function usePosts(node: string) {
  const open = useDuty("discussion.open");
  return useQuery({
    enabled: open,
    queryKey: keys.posts(node),
    queryFn: () =>
      everyPage((offset) =>
        api.GET("/api/desk/pages/{node}/posts", { params: { path: { node }, query: { offset } } }),
      ),
  });
}

/** Approve or reject what is held under a page. */
export function useModerate(node: string) {
  return useMutation({
    mutationFn: ({ post, state }: { post: string; state: "approved" | "rejected" }) =>
      answer(
        api.PATCH("/api/desk/pages/{node}/posts/{post}", {
          params: { path: { node, post } },
          body: { state },
        }),
      ),
    onSuccess: () => queryClient.invalidateQueries({ queryKey: keys.posts(node) }),
  });
}

/** The way to a page on the desk, in its tree, or to its working copy. */
export function wayTo({ id, working = false }: { id: string; working?: boolean }, tree?: string): string {
  const query = [...(tree === "media" ? ["tree=media"] : []), ...(working ? ["copy"] : [])].join("&");
  return `/desk/${id}${query && `?${query}`}`;
}
