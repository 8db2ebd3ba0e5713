// The small menu on a name: open what it names, stand in for it, and ask what it may do where.
import { ChevronDown } from "lucide-react";
import { type ReactNode, type SyntheticEvent, useState } from "react";
import { Link } from "react-router";
import { Menu, MenuItem } from "./Menu";
import { useDuty, useSession, useStandIn } from "./session";
import { StandInDialog } from "./standin/StandInDialog";
import { holderOf, memberOf, type Whom } from "./standin/whom";
import { TextLink } from "./TextLink";

/** What a name names. */
export type Named = { account: string } | { role: string } | { group: string };

type Props = {
  of: Named;
  name: string;
  /** Whether its button is there to see before one points at the name. */
  shown?: boolean;
  /** Within a grid, whose rows are gone through by arrows. */
  tabIndex?: number;
};

export function NameMenu({ of, name, shown, tabIndex }: Props) {
  const [choosing, choose] = useState(false);
  const standIn = useStandIn();
  const session = useSession().data;
  const stands = useDuty("impersonate.start");
  const opens = useDuty("role" in of ? "roles.define" : "roster.see");
  const limits = useDuty("limits.set");
  const rehearsesOneself = useDuty("rehearsal.start");
  // From within, nobody stands in for a second one.
  const free = !session?.standing_in;
  const oneself = "account" in of && of.account === session?.actor?.id;
  const may = stands && free && !oneself;
  const rehearses = rehearsesOneself && free && oneself;
  const whom = whomOf(of);
  if (!opens && !may && !rehearses && !limits) return null;
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: what is done in the menu is not done to the row it stands in
    <span className="contents" onClick={stop} onKeyDown={stop}>
      <Menu
        align="start"
        label={name}
        trigger={
          <button
            type="button"
            aria-label={`More of ${name}`}
            tabIndex={tabIndex}
            className={`ml-0.5 inline-flex size-[18px] shrink-0 items-center justify-center rounded group-hover/name:text-ink2 hover:bg-chosen focus-visible:text-ink2 data-[state=open]:text-ink2 ${shown ? "text-ink2" : "text-transparent"}`}
          >
            <ChevronDown aria-hidden size={13} />
          </button>
        }
      >
        {opens && (
          <MenuItem asChild>
            <Link to={placeOf(of)}>Open</Link>
          </MenuItem>
        )}
        {may && (
          <>
            <MenuItem disabled={standIn.isPending} onSelect={() => standIn.mutate({ whom })}>
              Stand in
            </MenuItem>
            <MenuItem onSelect={() => choose(true)}>Rehearse, or on a date…</MenuItem>
          </>
        )}
        {rehearses && <MenuItem onSelect={() => choose(true)}>Rehearse as yourself…</MenuItem>}
        {limits && (
          <MenuItem asChild>
            <Link to={`/limit?${new URLSearchParams(of)}`}>What may they do where</Link>
          </MenuItem>
        )}
      </Menu>
      <StandInDialog
        open={choosing || standIn.isError}
        onClose={() => {
          choose(false);
          standIn.reset();
        }}
        whom={whom}
        name={oneself ? "yourself" : name}
        refused={standIn.error}
      />
    </span>
  );
}

function stop(event: SyntheticEvent) {
  event.stopPropagation();
}

/** A name that leads to what it names, with its menu. */
export function NameLink({
  of,
  name,
  className,
  children,
}: Props & { className?: string; children?: ReactNode }) {
  return (
    <span className="group/name inline-flex min-w-0 items-center">
      <TextLink to={placeOf(of)} className={`truncate ${className ?? ""}`}>
        {children ?? name}
      </TextLink>
      <NameMenu of={of} name={name} />
    </span>
  );
}

export function whomOf(of: Named): Whom {
  if ("account" in of) return of;
  return "role" in of ? holderOf(of.role) : memberOf(of.group);
}

function placeOf(of: Named): string {
  if ("account" in of) return `/assign/${of.account}`;
  return "role" in of ? `/define/${of.role}` : `/assign/groups/${of.group}`;
}
