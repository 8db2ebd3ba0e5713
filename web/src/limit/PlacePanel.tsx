// The right side of the tree: the limits that count at one node, and who can still edit there.
import { useState } from "react";
import { RoleCloth } from "../cloth/RoleCloth";
import { useStage } from "../shared/changes/changeSet";
import { TextButton } from "../shared/TextLink";
import { count, day } from "../shared/time";
import { Button, ErrorNotice, Loading } from "../shared/ui";
import { useRoleMap } from "../shared/useRoles";
import { SetLimit } from "./SetLimit";
import { type LimitData, usePlace, type Whom } from "./useLimits";

export const APPLIES: Record<string, string> = {
  node: "here only",
  beneath: "beneath only",
  branch: "here and beneath",
};

const EFFECT: Record<string, string> = { stop: "Stop", bar: "Bar", lift: "Lift" };

type PanelProps = { node: string; whom: Whom; onGo: (node: string) => void };

export function PlacePanel({ node, whom, onGo }: PanelProps) {
  const place = usePlace(node);
  const roles = useRoleMap();
  const [setting, set] = useState(false);
  return (
    <aside
      aria-label="Limits here"
      className="w-[330px] shrink-0 max-[1180px]:w-[280px] overflow-y-auto border-l border-line bg-paper px-[18px] pt-[30px] pb-8"
    >
      {!node && (
        <p className="text-sm text-ink2">Choose a row of the tree to see and set the limits there.</p>
      )}
      {place.error && <ErrorNotice error={place.error} again={place.refetch} />}
      {node && place.isPending && <Loading what="the limits" />}
      {place.data && (
        <>
          <p className="text-xs text-ink2">
            {place.data.above ? `${place.data.above} /` : "Root of the tree"}
          </p>
          <div className="flex items-start justify-between gap-2">
            <h1 className="text-lg!">{place.data.title}</h1>
            <Button look="main" onClick={() => set(true)}>
              Add a limit
            </Button>
          </div>
          <p className="text-ink2">
            {place.data.beneath === 0
              ? "Nothing beneath"
              : `${count(place.data.beneath, "page")} beneath, ${place.data.published} of them published`}
          </p>
          <Part title="Set here">
            {place.data.here.length === 0 && <p>Nothing</p>}
            {place.data.here.map((limit) => (
              <LimitCard key={limit.id} limit={limit} />
            ))}
          </Part>
          <Part title="Coming from above">
            {place.data.from_above.length === 0 && <p>Nothing</p>}
            {place.data.from_above.map((limit) => (
              <Elsewhere key={limit.id} limit={limit} onGo={onGo} />
            ))}
          </Part>
          <Part title="Lifted beneath">
            {place.data.lifted_beneath.length === 0 && <p>Nothing</p>}
            {place.data.lifted_beneath.map((limit) => (
              <Elsewhere key={limit.id} limit={limit} onGo={onGo} />
            ))}
          </Part>
          <Part title="Who can edit here">
            {place.data.editors === null && <p>It is told to whoever sees the roster.</p>}
            {place.data.editors?.map(({ role, accounts }) => (
              <p key={role} className="flex items-center gap-1.5 py-[1px]">
                <RoleCloth cloth={roles.get(role ?? "")?.cloth} size={14} />
                {roles.get(role ?? "")?.name ?? "A single capability"}, {count(accounts, "account")}
              </p>
            ))}
            {place.data.keyholders !== null && <p>{count(place.data.keyholders, "keyholder")}</p>}
          </Part>
          <SetLimit
            open={setting}
            onClose={() => set(false)}
            node={node}
            title={place.data.title}
            whom={whom}
          />
        </>
      )}
    </aside>
  );
}

function Part({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section className="mt-4 text-read">
      <h2 className="mb-1 text-xs font-semibold text-ink2">{title}</h2>
      {children}
    </section>
  );
}

export function Sentence({ limit }: { limit: LimitData }) {
  const roles = useRoleMap();
  const role = limit.subject_kind === "role" ? roles.get(limit.subject ?? "") : undefined;
  return (
    <>
      <strong>{EFFECT[limit.effect]}</strong> {limit.actions?.join(", ") ?? "everything"}{" "}
      <span className="whitespace-nowrap">
        for {role && <RoleCloth cloth={role.cloth} size={13} />} {limit.subject_name}
      </span>
    </>
  );
}

function LimitCard({ limit }: { limit: LimitData }) {
  const stage = useStage();
  return (
    <div className="mb-2 rounded-md border border-line bg-paper px-3 py-2 leading-[1.45]">
      <p className={limit.staged === "ending" ? "line-through" : ""}>
        <Sentence limit={limit} />
      </p>
      <p className="flex items-center justify-between text-ink2">
        <span>
          {APPLIES[limit.applies]}
          {limit.set_by && limit.set_at ? `, by ${limit.set_by}, ${day(limit.set_at)}` : ""}
          {limit.staged && (
            <span className="text-[#75531a]">
              <span className="mx-1.5 inline-block size-[7px] rounded-full bg-brass" aria-hidden="true" />
              {limit.staged === "new" ? "staged" : "staged to end"}
            </span>
          )}
        </span>
        {limit.staged === "" && (
          <Button look="quiet" onClick={() => stage.mutate([{ kind: "drop-limit", limit: limit.id }])}>
            Drop
          </Button>
        )}
      </p>
    </div>
  );
}

function Elsewhere({ limit, onGo }: { limit: LimitData; onGo: (node: string) => void }) {
  return (
    <p className="mb-1">
      <TextButton className="font-semibold" onClick={() => onGo(limit.node)}>
        {limit.title}
      </TextButton>
      : <Sentence limit={limit} />, {APPLIES[limit.applies]}
    </p>
  );
}
