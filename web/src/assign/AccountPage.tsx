// An account's page: what is given, what that adds up to, and where.
import { useState } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { useStage } from "../shared/changes/changeSet";
import { useDuty, useSession, useStandIn } from "../shared/session";
import { count, day } from "../shared/time";
import { Button, Empty, ErrorNotice, Loading } from "../shared/ui";
import {
  type AccountData,
  type Given,
  useAccount,
  useGroups,
  useSites,
  useWhere,
} from "../shared/useAccounts";
import { type Role, useRoleMap } from "../shared/useRoles";
import { GiveRole } from "./GiveRole";
import { SumBoard } from "./SumBoard";

export function AccountPage({ account }: { account: string }) {
  const page = useAccount(account);
  const standIn = useStandIn();
  const me = useSession().data?.actor?.id;
  const mayStandIn = useDuty("impersonate.start") && account !== me;
  if (page.error) return <ErrorNotice error={page.error} again={page.refetch} />;
  if (!page.data) return <Loading what="the account" />;
  const { account: row } = page.data;
  return (
    <section className="min-w-0 flex-1 overflow-y-auto px-[24px] pt-[30px] pb-8" aria-label={row.name}>
      <header className="flex items-center gap-[14px]">
        <Portrait name={row.name} />
        <div className="min-w-0 flex-1">
          <h1 className="truncate">{row.name}</h1>
          <p className="truncate text-ink2">
            {[row.email, row.state, row.groups.join(" and ")].filter(Boolean).join(", ")}
          </p>
        </div>
        {mayStandIn && (
          <Button look="main" onClick={() => standIn.mutate({ account })} disabled={standIn.isPending}>
            Stand in
          </Button>
        )}
      </header>
      <ErrorNotice error={standIn.error} />
      <GivenList data={page.data} account={account} />
      <h2 className="mt-6 mb-1">What that adds up to</h2>
      {row.keyholder ? (
        <Empty title="Everything, always">
          {row.name} is a keyholder. No role gives it and no limit or bar takes anything away.
        </Empty>
      ) : (
        <SumBoard rows={page.data.sum} name={row.name} />
      )}
      <Where account={account} reach={page.data.reach} />
    </section>
  );
}

function Portrait({ name }: { name: string }) {
  const initials = name
    .split(/\s+/)
    .map((part) => part[0])
    .filter((_, i, all) => i === 0 || i === all.length - 1)
    .join("");
  return (
    <span
      aria-hidden="true"
      className="flex size-[50px] shrink-0 items-center justify-center rounded-md bg-linear-to-br from-[#6b5a3c] to-[#7d4f3c] text-lg font-semibold text-white"
    >
      {initials}
    </span>
  );
}

function GivenList({ data, account }: { data: AccountData; account: string }) {
  const roles = useRoleMap();
  const groups = new Map(useGroups().data?.map((group) => [group.key, group.name]));
  const [giving, give] = useState(false);
  const mayGive = useDuty("roles.assign");
  return (
    <>
      <h2 className="mt-5 mb-1">Given</h2>
      {data.given.length === 0 && <p className="text-sm text-ink2">Nothing but what everyone has.</p>}
      <ul>
        {data.given.map((given) => (
          <GivenLine
            key={given.id}
            given={given}
            role={roles.get(given.role ?? "")}
            group={given.group ? (groups.get(given.group) ?? given.group) : null}
            mayTake={mayGive && given.role !== null && given.staged === ""}
          />
        ))}
      </ul>
      {mayGive && (
        <div className="mt-2.5">
          <Button onClick={() => give(true)}>Give a role</Button>
        </div>
      )}
      <GiveRole open={giving} onClose={() => give(false)} account={account} name={data.account.name} />
    </>
  );
}

type LineProps = { given: Given; role: Role | undefined; group: string | null; mayTake: boolean };

function GivenLine({ given, role, group, mayTake }: LineProps) {
  const stage = useStage();
  const siteNames = new Map(useSites().data?.map((site) => [site.key, site.name]));
  const ending = given.staged === "ending";
  return (
    <li className="grid min-h-[38px] grid-cols-[24px_minmax(110px,1fr)_minmax(0,1.7fr)_minmax(96px,150px)_86px] items-center gap-2 border-b border-line py-1 text-read">
      {role ? <RoleCloth cloth={role.cloth} size={17} /> : <span className="pl-1 text-ink2">+</span>}
      <span className="leading-tight">
        <strong className={`font-semibold ${ending ? "line-through" : ""}`}>
          {role?.name ?? given.capability}
        </strong>
        {given.staged && (
          <span className="ml-1.5 inline-flex items-center gap-1 text-xs text-[#75531a]">
            <span className="inline-block size-[7px] rounded-full bg-brass" aria-hidden="true" />
            {ending ? "staged to end" : "staged"}
          </span>
        )}
        <span className="block text-xs text-ink2">
          {group ? `through ${group}` : "directly"}
          {given.capability ? `, one capability (${given.says})` : ""}
        </span>
      </span>
      <span className="leading-tight text-ink">{where(given, siteNames)}</span>
      <span className="figures text-sm">{when(given)}</span>
      <span className="text-right">
        {mayTake &&
          (group ? (
            <span className="text-xs text-ink2">by group</span>
          ) : (
            <Button
              look="quiet"
              aria-label={`Take away ${role?.name}`}
              onClick={() => stage.mutate([{ kind: "take-role", assignment: given.id }])}
            >
              Take away
            </Button>
          ))}
      </span>
    </li>
  );
}

function where(given: Given, siteNames: Map<string, string>): string {
  const { sites, types, topics } = given.scope;
  const parts: string[] = [];
  if (given.branches.length)
    parts.push(`on ${given.branches.map((b) => b.title).join(" and ")} and what is beneath`);
  else if (given.scope.branches) parts.push("nowhere, as no branch is named");
  if (sites) parts.push(`on ${sites.map((site) => siteNames.get(site) ?? site).join(" and ")}`);
  if (types) parts.push(`for ${types.join(", ")} only`);
  if (topics) parts.push(`about ${topics.join(", ")}`);
  return parts.join(", ") || "everywhere";
}

function when(given: Given): string {
  if (!given.active && given.starts && new Date(given.starts) > new Date())
    return `from ${day(given.starts)}`;
  if (given.ends) return `${given.active ? "until" : "ended"} ${day(given.ends)}`;
  return given.starts ? `since ${day(given.starts)}` : "no end";
}

function Where({ account, reach }: { account: string; reach: AccountData["reach"] }) {
  const where = useWhere(account);
  const confined = Object.entries(reach);
  return (
    <>
      <h2 className="mt-6 mb-1">Where</h2>
      {confined.map(([tree, branches]) => (
        <p key={tree} className="mb-1 text-sm">
          Confined in {tree} to <strong>{branches.map((b) => b.title).join(", ") || "nothing"}</strong>.
        </p>
      ))}
      {where.data?.length === 0 && (
        <p className="text-sm text-ink2">Nowhere: it can edit and publish nothing.</p>
      )}
      <ul>
        {where.data?.map((branch) => (
          <li
            key={branch.id}
            className="grid grid-cols-[minmax(120px,230px)_minmax(60px,270px)_minmax(150px,1fr)] items-center gap-3 py-[4px] text-read"
          >
            <span className="truncate">
              {branch.title} <span className="text-xs text-ink2">{branch.above}</span>
            </span>
            <span className="flex h-[8px] overflow-hidden rounded-xs bg-linen2" aria-hidden="true">
              <span style={{ width: `${(branch.publishes / branch.nodes) * 100}%`, background: "#1e7466" }} />
              <span
                style={{
                  width: `${(Math.max(branch.edits - branch.publishes, 0) / branch.nodes) * 100}%`,
                  background: "#b9841a",
                }}
              />
            </span>
            <span className="figures text-ink2">
              edits {branch.edits} of {branch.nodes}, publishes {branch.publishes || "none"}
            </span>
          </li>
        ))}
      </ul>
      {where.data && where.data.length > 0 && (
        <p className="mt-1 text-xs text-ink2">
          {count(where.data.length, "branch", "branches")} with anything to do.
        </p>
      )}
    </>
  );
}
