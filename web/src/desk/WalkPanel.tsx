// Beside the page in a rehearsal: what of the role's walk list can be tried on it, and what was.
import { useEffect, useState } from "react";
import { Link } from "react-router";
import { ProvedCloth } from "../cloth/ProvedCloth";
import { useSession } from "../shared/session";
import { TextLink } from "../shared/TextLink";
import { Button, Chip, ErrorNotice, Loading } from "../shared/ui";
import { useAttempt, useWalkList, type WalkCount, type WalkItem } from "../shared/walks/useWalks";
import { WalkEntry } from "../shared/walks/WalkEntry";
import { usePageKept } from "./useDesk";

type Show = "here" | "all" | "open";

export function WalkPanel({ node, lists }: { node: string; lists: WalkCount[] }) {
  const [role, choose] = useState(lists[0]?.role.key);
  const chosen = lists.find((list) => list.role.key === role) ?? lists[0];
  const walk = useWalkList(chosen?.id ?? "", node);
  const [show, setShow] = useState<Show>("here");
  useTickedByLooking(node, walk.refetch);
  if (walk.error) return <ErrorNotice error={walk.error} again={walk.refetch} />;
  if (!walk.data || !chosen) return <Loading what="the walk list" />;
  const { entries, role: of, proved, items } = walk.data;
  const here = entries.filter(({ page }) => page?.id === node);
  const open = entries.filter(({ state }) => state === "open");
  const shown = { here, all: entries, open }[show];
  return (
    <div className="px-[18px]">
      {lists.length > 1 && (
        <div className="mb-3 flex flex-wrap gap-1.5">
          {lists.map((list) => (
            <Chip key={list.role.key} on={list === chosen} onClick={() => choose(list.role.key)}>
              {list.role.name}
            </Chip>
          ))}
        </div>
      )}
      <div className="mb-3 flex items-center gap-3">
        <ProvedCloth cloth={of.cloth} proved={proved} of={items} size={26} />
        <div>
          <h2 className="text-read!">
            <Link to={`/walk/${chosen.id}`} className="hover:underline">
              {of.name}
            </Link>
          </h2>
          <p role="status" className="text-xs text-ink2">
            {proved} of {items} proved
          </p>
        </div>
      </div>
      <div className="mb-1 flex flex-wrap gap-1.5">
        <Chip on={show === "here"} onClick={() => setShow("here")}>
          On this page {here.length}
        </Chip>
        <Chip on={show === "all"} onClick={() => setShow("all")}>
          All {items}
        </Chip>
        <Chip on={show === "open"} onClick={() => setShow("open")}>
          Open {open.length}
        </Chip>
      </div>
      {shown.length === 0 && (
        <p className="py-3 text-sm text-ink2">
          {show === "here" ? "Nothing of it can be tried on this page." : "None."}
        </p>
      )}
      <ul>
        {shown.map((item) => (
          <WalkEntry key={item.key} item={item}>
            <Try item={item} node={node} />
          </WalkEntry>
        ))}
      </ul>
    </div>
  );
}

/** The way to try it: to the page, or, of what no screen offers, to send it all the same. */
function Try({ item, node }: { item: WalkItem; node: string }) {
  const attempt = useAttempt();
  const subject = useSession().data?.subject;
  const { page, attempt: sent, own } = item;
  if (subject?.whose === "roles" && own !== null && own !== subject.own)
    return (
      <span className="block text-xs text-ink2">
        to be tried as the author of {own ? "everything" : "nothing"}
      </span>
    );
  if (!page) return <span className="block text-xs text-ink2">no page here to try it on</span>;
  return (
    <span className="mt-0.5 flex flex-wrap items-center gap-x-2.5 text-xs">
      {page.id !== node && <TextLink to={`/desk/${page.id}`}>{page.title}</TextLink>}
      {sent && (
        <Button
          look="quiet"
          className="px-0! py-0! text-xs! underline decoration-line2 underline-offset-2 hover:bg-transparent!"
          disabled={attempt.isPending}
          onClick={() => attempt.mutate({ attempt: sent, page: page.id })}
        >
          Try it all the same
        </Button>
      )}
      <ErrorNotice error={attempt.error} />
    </span>
  );
}

/** Opening a page is a try, too: what it ticked is fetched once it was read. */
function useTickedByLooking(node: string, refetch: () => void) {
  const { readAt } = usePageKept(node);
  // biome-ignore lint/correctness/useExhaustiveDependencies: whenever the page was read, and only then
  useEffect(() => {
    if (readAt) refetch();
  }, [readAt]);
}
