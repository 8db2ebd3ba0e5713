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

export function useSincePublic(node: string) {
  return useQuery({
    queryKey: keys.sincePublic(node),
    queryFn: () => answer(api.GET("/api/desk/pages/{node}/since-public", { params: { path: { node } } })),
    staleTime: 0,
  });
}
