// Who else has the page open: told as long as they do, and what they saved is fetched.
import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { answer, api } from "../api/client";
import { keys } from "../shared/keys";
import { queryClient } from "../shared/query";
import { useSession } from "../shared/session";
import type { Page } from "./useDesk";

const EVERY = 20_000;

function useOthers({ id: node, working }: Page, on: boolean) {
  return useQuery({
    queryKey: keys.others(node, working),
    queryFn: () =>
      answer(api.PUT("/api/desk/pages/{node}/here", { params: { path: { node } }, body: { working } })),
    enabled: on,
    refetchInterval: EVERY,
    staleTime: 0,
    retry: false,
  });
}

/** `dirty`: then what others saved is left to be noticed when one saves oneself. */
export function Others({ page, dirty }: { page: Page; dirty: boolean }) {
  const standing = Boolean(useSession().data?.standing_in);
  const there = useOthers(page, !standing).data;
  const saved = there?.tag;
  // biome-ignore lint/correctness/useExhaustiveDependencies: once, when it is told; not when one saves oneself
  useEffect(() => {
    if (saved === undefined || saved === page.tag || dirty) return;
    const queryKey = page.working ? keys.workingCopy(page.id) : keys.page(page.id);
    queryClient.invalidateQueries({ queryKey, exact: true });
  }, [saved]);
  if (!there || there.others.length === 0) return null;
  const named = there.others.map(({ name, working }) =>
    working && !page.working ? `${name} (on the working copy)` : name,
  );
  return (
    <span
      role="status"
      className="shrink-0 rounded-full bg-[#e4ecf3] px-2 py-px text-ink"
      title={named.join(", ")}
    >
      {named[0]}
      {named.length > 1 && ` and ${named.length - 1} more`} {named.length > 1 ? "are" : "is"} here too
    </span>
  );
}
