// What staged changes would do, in counts that open into lists: by role, by account, by page.
import { type ReactNode, useState } from "react";
import type { Shapes } from "../../api/client";
import { RoleCloth } from "../../cloth/RoleCloth";
import { useDuty } from "../session";
import { TextButton } from "../TextLink";
import { count } from "../time";
import { Button, ErrorNotice, Loading } from "../ui";
import { useRoleMap } from "../useRoles";
import { useImpactAccounts, useImpactNodes, useImpactPages } from "./changeSet";
import { bothWords, changeWords, type Total, touchedWords, touchesNobody, wholeAndParts } from "./impactText";

type Impact = Shapes["ImpactShape"];
type Turn = Shapes["TurnShape"];

export function ImpactDetails({ impact }: { impact: Impact }) {
  const [open, setOpen] = useState(false);
  const roles = useRoleMap();
  const mayName = useDuty("roster.see");
  return (
    <section aria-label="What this would do" className="mt-4 text-sm">
      <p className="font-semibold first-letter:uppercase">{bothWords(impact)}.</p>
      <ul aria-label="What changes" className="figures mt-1 ml-4 list-disc">
        <WholeThenParts turns={impact.turns} line={(total) => <TotalLine key={total.key} total={total} />} />
      </ul>
      {impact.roles.length > 0 && (
        <ul className="mt-2 flex flex-wrap gap-x-5 gap-y-1">
          {impact.roles.map(({ role, gain, lose }) => (
            <li key={role} className="flex items-center gap-1.5">
              <RoleCloth cloth={roles.get(role)?.cloth} size={14} />
              {roles.get(role)?.name ?? role}
              <span className="figures text-ink2">{gainAndLose({ gain, lose })}</span>
            </li>
          ))}
        </ul>
      )}
      {mayName && !touchesNobody(impact) && (
        <Button look="quiet" className="mt-1 -ml-2" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "Hide who" : "Show who"}
        </Button>
      )}
      {open && <Accounts />}
    </section>
  );
}

function gainAndLose({ gain, lose }: { gain: number; lose: number }): string {
  const parts = [gain > 0 && count(gain, "gains", "gain"), lose > 0 && count(lose, "loses", "lose")];
  return parts.filter(Boolean).join(", ");
}

/** Parts of pages follow their pages, so they are told once somebody looks. */
function WholeThenParts<Turning extends { key: string }>(props: {
  turns: Turning[];
  line: (turning: Turning) => ReactNode;
}) {
  const [open, setOpen] = useState(false);
  const [whole, parts] = wholeAndParts(props.turns);
  return (
    <>
      {whole.map(props.line)}
      {parts.length > 0 && (
        <li>
          <Unfold open={open} onToggle={() => setOpen(!open)}>
            {count(parts.length, "field or component", "fields and components")}
          </Unfold>
        </li>
      )}
      {open && parts.map(props.line)}
    </>
  );
}

function TotalLine({ total }: { total: Total }) {
  const [open, setOpen] = useState(false);
  const mayList = useDuty("roster.see") && total.pages;
  const pages = useImpactPages(total.key, open);
  if (!mayList) return <li>{changeWords(total)}</li>;
  return (
    <li>
      <Unfold open={open} onToggle={() => setOpen(!open)}>
        {changeWords(total)}
      </Unfold>
      {open && pages.error && <ErrorNotice error={pages.error} again={pages.refetch} />}
      {open && pages.isPending && <Loading what="where" />}
      {open && pages.data && (
        <ul className="mb-1 text-ink2">
          {pages.data.pages.map((page, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: pages may bear one title, and the list never changes.
            <li key={i}>
              {page.title}: {touchedWords(page)}
            </li>
          ))}
          {pages.data.total > pages.data.pages.length && (
            <li>and {count(pages.data.total - pages.data.pages.length, "more page", "more pages")}</li>
          )}
        </ul>
      )}
    </li>
  );
}

function Unfold({ open, onToggle, children }: { open: boolean; onToggle: () => void; children: ReactNode }) {
  return (
    <TextButton aria-expanded={open} onClick={onToggle}>
      {children}
    </TextButton>
  );
}

function Accounts() {
  const accounts = useImpactAccounts(true);
  if (accounts.error) return <ErrorNotice error={accounts.error} again={accounts.refetch} />;
  if (!accounts.data) return <Loading what="who gains and loses" />;
  return (
    <ul className="mt-1 max-h-[260px] overflow-y-auto border-y border-linen2">
      {accounts.data.map((told) => (
        <Account key={told.account ?? ""} told={told} />
      ))}
      {accounts.data.length === 200 && <li className="py-1 text-ink2">and more</li>}
    </ul>
  );
}

function Account({ told: { account, name, turns } }: { told: Shapes["AccountImpactShape"] }) {
  return (
    <li className="border-b border-linen2 py-1 last:border-b-0">
      <span className="font-medium">{name}</span>
      <ul className="ml-4">
        <WholeThenParts
          turns={turns}
          line={(turn) => <TurnLine key={turn.key} account={account} turn={turn} />}
        />
      </ul>
    </li>
  );
}

function howMany(places: number | null, inPlaces: boolean): string {
  return inPlaces && places !== null ? `: ${places}` : "";
}

function TurnLine({ account, turn }: { account: string | null; turn: Turn }) {
  const [open, setOpen] = useState(false);
  const nodes = useImpactNodes(account, turn.key, open);
  const says = [
    turn.gained !== 0 && `may ${turn.words}${howMany(turn.gained, turn.places)}`,
    turn.lost !== 0 && `may no longer ${turn.words}${howMany(turn.lost, turn.places)}`,
  ].filter(Boolean);
  return (
    <li>
      {turn.places ? (
        <Unfold open={open} onToggle={() => setOpen(!open)}>
          {says.join("; ")}
        </Unfold>
      ) : (
        says.join("; ")
      )}
      {open && nodes.error && <ErrorNotice error={nodes.error} />}
      {open && nodes.data && (
        <p className="ml-4 text-ink2">
          {[...nodes.data.gained, ...nodes.data.lost].map(({ title }) => title).join(", ")}
        </p>
      )}
    </li>
  );
}
