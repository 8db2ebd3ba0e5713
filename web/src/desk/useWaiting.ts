// What was handed in and waits, and what changed on each since visitors last read it.
import { useQuery } from "@tanstack/react-query";
import { answer, api, everyPage, type Shapes } from "../api/client";
import { keys } from "../shared/keys";

export type Waiting = Shapes["WaitingShape"];

export function useWaiting() {
  return useQuery({
    queryKey: keys.waiting,
    queryFn: () => everyPage((offset) => api.GET("/api/desk/waiting", { params: { query: { offset } } })),
    staleTime: 0,
  });
}

/** What differs from what is public: on a page that was, or on the working copy of one that is. */
export function useSincePublic(node: string, working: boolean) {
  const asked = { params: { path: { node } } };
  return useQuery({
    queryKey: working ? keys.workingCopyChanges(node) : keys.sincePublic(node),
    queryFn: () =>
      answer(
        working
          ? api.GET("/api/desk/pages/{node}/copy/changes", asked)
          : api.GET("/api/desk/pages/{node}/since-public", asked),
      ),
    staleTime: 0,
  });
}
