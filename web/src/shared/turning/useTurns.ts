// From a no to a yes: the smallest changes, and what each would also do.
import { useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../../api/client";
import type { Operation } from "../changes/changeSet";
import { keys } from "../keys";
import type { WhyQuestion } from "../Why";

export type Turn = Shapes["WayToYesShape"];

export function useTurns(question: WhyQuestion, enabled: boolean) {
  return useQuery({
    queryKey: keys.turns(question),
    queryFn: () => answer(api.POST("/api/why/changes", { body: question })),
    enabled,
    staleTime: 0,
  });
}

/** What some operations would change by themselves, and for how many; nothing is staged. */
export function useOperationsPreview(operations: Operation[], enabled: boolean) {
  return useQuery({
    queryKey: keys.operationsTurns(operations),
    queryFn: () => answer(api.POST("/api/change-set/preview", { body: { operations } })),
    enabled,
    retry: false,
  });
}
