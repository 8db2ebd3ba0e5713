// The side of a page that tells about access: who can do what here, what narrows it, what is locked.
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";
import { answer, api } from "../api/client";
import { keys } from "../shared/keys";
import { LimitSentence } from "../shared/LimitSentence";
import { SetLimit } from "../shared/SetLimit";
import { useDuty, useLooksOnly } from "../shared/session";
import { day } from "../shared/time";
import { Button, Chip, ErrorNotice, Loading } from "../shared/ui";
import { useActionsOnPages } from "../shared/useWords";
import { WhoCan, type WhoQuestion } from "../shared/WhoCan";
import { LockIt, LockList } from "./Locks";
import type { Page } from "./useDesk";

function usePageAccess(node: string) {
  return useQuery({
    queryKey: keys.pageAccess(node),
    queryFn: () => answer(api.GET("/api/desk/pages/{node}/access", { params: { path: { node } } })),
  });
}

type AccessProps = { page: Page; chosen: string | null };

export function AccessPanel({ page, chosen }: AccessProps) {
  const access = usePageAccess(page.id);
  const looks = useLooksOnly();
  const seesPeople = useDuty("roster.see");
  const [asked, ask] = useState("edit");
  const [doing, set] = useState<"limit" | "lock" | null>(null);
  const names = useActionsOnPages();
  if (access.error) return <ErrorNotice error={access.error} again={access.refetch} />;
  if (!access.data) return <Loading what="who can do what here" />;
  const { actions, fields_ruled, narrowed, may_limit, may_lock } = access.data;
  const counted = actions.filter(({ accounts, action }) => accounts !== null && SHOWN.includes(action));
  const question = questionOf(asked, page.id);
  const field = fields_ruled.find(({ key }) => `field ${key}` === asked);
  const words = field
    ? `change ${field.name.toLowerCase()}`
    : (names.find(({ key }) => key === asked)?.name.toLowerCase() ?? asked);
  return (
    <div className="px-[18px]">
      {may_limit && seesPeople && (
        <>
          <span className="mb-3 flex flex-wrap gap-1.5">
            {counted.map(({ action, accounts }) => (
              <Chip key={action} on={asked === action} onClick={() => ask(action)}>
                {names.find(({ key }) => key === action)?.name ?? action} {accounts}
              </Chip>
            ))}
            {fields_ruled.map(({ key, name }) => (
              <Chip key={key} on={asked === `field ${key}`} onClick={() => ask(`field ${key}`)}>
                {name}
              </Chip>
            ))}
          </span>
          <WhoCan key={asked} question={question} words={`${words} here`} />
        </>
      )}
      {may_limit && (
        <>
          <h2 className="mt-5 mb-1">Narrowed here</h2>
          {narrowed.length === 0 && <p className="text-sm text-ink2">Nothing</p>}
          <ul className="text-read">
            {narrowed.map((limit) => (
              <li key={limit.id} className="mb-1.5 leading-snug">
                <LimitSentence limit={limit} />
                <span className="block text-xs text-ink2">
                  set {limit.node === page.id ? "here" : `on ${limit.title}`}
                  {limit.set_by ? `, by ${limit.set_by}` : ""}
                  {limit.set_at ? `, ${day(limit.set_at)}` : ""}
                  {limit.staged === "new" ? ", staged" : limit.staged === "ending" ? ", staged to end" : ""}
                </span>
              </li>
            ))}
          </ul>
          <Link
            className="text-sm underline decoration-line2 underline-offset-2"
            to={`/limit?tab=${page.tree}&node=${page.id}`}
          >
            In the tree of limits
          </Link>
        </>
      )}
      <h2 className="mt-5 mb-1">Locked here</h2>
      <LockList page={page} looks={looks} />
      {!looks && (
        <span className="mt-4 flex flex-wrap gap-2">
          {may_limit && <Button onClick={() => set("limit")}>Narrow…</Button>}
          {may_lock && <Button onClick={() => set("lock")}>Lock…</Button>}
        </span>
      )}
      <SetLimit
        open={doing === "limit"}
        onClose={() => set(null)}
        node={page.id}
        title={page.title}
        whom={{}}
      />
      <LockIt page={page} chosen={chosen} open={doing === "lock"} onClose={() => set(null)} />
    </div>
  );
}

const SHOWN = ["see", "edit", "publish", "remove"];

function questionOf(asked: string, node: string): WhoQuestion {
  const [part, field] = asked.split(" ");
  return part === "field" && field ? { action: "change-field", node, field } : { action: asked, node };
}
