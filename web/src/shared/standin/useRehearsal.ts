// What was done in the rehearsal under way, and taking one step of it back.
import { useMutation, useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../../api/client";
import { keys } from "../keys";
import { queryClient } from "../query";
import { useSession } from "../session";

export type Step = Shapes["StepShape"];

export function useRehearses(): boolean {
  return useSession().data?.standing_in?.mode === "rehearse";
}

export function useRehearsal() {
  return useQuery({
    queryKey: keys.rehearsal,
    queryFn: () => answer(api.GET("/api/rehearsal")),
    enabled: useRehearses(),
  });
}

/** Every screen is drawn anew: what was done before is done without it. */
export function useTakeStepBack() {
  return useMutation({
    mutationFn: (step: number) =>
      answer(api.DELETE("/api/rehearsal/steps/{step}", { params: { path: { step } } })),
    onSuccess: (rehearsal) => {
      queryClient.setQueryData(keys.rehearsal, rehearsal);
      return queryClient.invalidateQueries({
        predicate: ({ queryKey }) => queryKey[0] !== keys.rehearsal[0],
      });
    },
  });
}
