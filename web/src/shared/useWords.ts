// The words for actions and reasons, as the server has them.
import { useCallback } from "react";
import { type Catalogue, useCatalogue } from "./useRoles";

export type Action = Catalogue["actions"][number];

/** The actions that can be asked of pages, in the order in which marks and menus show them. */
export function useActions(): Action[] {
  return useCatalogue().data?.actions ?? [];
}

/** Those that are asked of a page that is there. */
export function useActionsOnPages(): Action[] {
  return useActions().filter(({ key }) => key !== "create");
}

/** A reason in a few words, for lists. */
export function useReasonWords(): (reason: string) => string {
  const reasons = useCatalogue().data?.reasons;
  return useCallback((reason) => reasons?.[reason]?.short ?? reason, [reasons]);
}
