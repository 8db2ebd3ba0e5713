// Verify: stand in for someone, and what should hold with how it stands.
import { useState } from "react";
import { Ring } from "../cloth/Ring";
import { RoleCloth } from "../cloth/RoleCloth";
import { NewExpectation } from "../shared/expectations/NewExpectation";
import {
  type Expectation,
  useDropExpectation,
  useExpectations,
} from "../shared/expectations/useExpectations";
import { mayHopeToStandIn, useDuty, useSession, useStandIn } from "../shared/session";
import { day } from "../shared/time";
import { Button, Chip, Empty, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { useRoster } from "../shared/useAccounts";
import { useParam } from "../shared/useParam";
import { useRoleMap } from "../shared/useRoles";
import { useReasonWords } from "../shared/useWords";
import { WhyPopover } from "../shared/Why";

export function VerifyPlace() {
  const keeps = useDuty("expectations.keep");
  return (
    <>
      <StandInSide />
      {keeps && <Expectations />}
      {!keeps && (
        <section className="min-w-0 flex-1 px-[24px] pt-[30px]">
          <h1>Expectations</h1>
          <Empty title="Closed to you">What is expected is told to whoever keeps expectations.</Empty>
        </section>
      )}
    </>
  );
}

function StandInSide() {
  const [words, setWords] = useState("");
  const seesRoster = useDuty("roster.see");
  const may = useDuty("impersonate.start") && seesRoster;
  const me = useSession().data?.actor;
  const roster = useRoster({ search: words, role: "", group: "", state: "active" });
  const roles = useRoleMap();
  const standIn = useStandIn();
  const people = roster.data?.pages[0]?.results.filter((row) => mayHopeToStandIn(row, me)) ?? [];
  return (
    <section
      aria-label="Stand in"
      className="flex w-[336px] shrink-0 flex-col border-r border-line bg-linen2 px-[18px] pt-[30px]"
    >
      <h1>Stand in</h1>
      <p className="mt-1 text-ink2">
        See the desk exactly as they do. Nobody’s password is needed, and nothing is kept.
      </p>
      {!may && <Empty title="Closed to you">Ask for a role that lets you stand in for others.</Empty>}
      {may && (
        <>
          <label className="mt-3 block">
            <span className="sr-only">An account by name</span>
            <input
              value={words}
              onChange={(e) => setWords(e.target.value)}
              placeholder="An account by name"
              className={INPUT}
            />
          </label>
          <ErrorNotice error={standIn.error} />
          <ul className="mt-2 min-h-0 flex-1 overflow-y-auto pb-6">
            {people.slice(0, 40).map((row) => {
              const held = row.roles.map(({ key }) => roles.get(key)).filter((role) => role !== undefined);
              return (
                <li
                  key={row.id}
                  className="flex min-h-[50px] items-center gap-2.5 border-b border-line py-1.5"
                >
                  <RoleCloth cloth={held[0]?.cloth ?? { colour: "slate", pattern: "plain" }} size={16} />
                  <span className="min-w-0 flex-1 leading-tight">
                    <span className="block truncate font-semibold">{row.name}</span>
                    <span className="block truncate text-xs text-ink2">
                      {row.keyholder
                        ? "Keyholder"
                        : held.map((role) => role.name).join(", ") || "signed in only"}
                    </span>
                  </span>
                  <Button
                    aria-label={`Stand in for ${row.name}`}
                    onClick={() => standIn.mutate({ account: row.id })}
                    disabled={standIn.isPending}
                  >
                    Stand in
                  </Button>
                </li>
              );
            })}
          </ul>
        </>
      )}
    </section>
  );
}

function Expectations() {
  const expectations = useExpectations();
  const [show, setShow] = useParam("show");
  const [recording, record] = useState(false);
  if (expectations.error) return <ErrorNotice error={expectations.error} again={expectations.refetch} />;
  if (!expectations.data) return <Loading what="the expectations" />;
  const { all, milliseconds } = expectations.data;
  const broken = all.filter((e) => !e.holds);
  const shown = [...broken, ...(show === "breaks" ? [] : all.filter((e) => e.holds))];
  return (
    <section className="min-w-0 flex-1 overflow-y-auto px-[24px] pt-[30px] pb-8">
      <div className="flex items-center gap-2.5">
        <h1>Expectations</h1>
        <Chip on={show === ""} onClick={() => setShow("")}>
          All {all.length}
        </Chip>
        <Chip on={show === "breaks"} onClick={() => setShow("breaks")}>
          Break {broken.length}
        </Chip>
        <span className="flex-1" />
        <span role="status" className="figures text-sm text-ink2">
          asked just now, in {milliseconds} ms
        </span>
        <Button onClick={() => expectations.refetch()} disabled={expectations.isFetching}>
          Ask again
        </Button>
        <Button look="main" onClick={() => record(true)}>
          New expectation
        </Button>
      </div>
      {shown.length === 0 ? (
        <Empty title={all.length ? "None breaks" : "Nothing is expected yet"}>
          {all.length
            ? "Everything recorded here holds."
            : "Say what someone may or may not do, here or while standing in for them. It is asked before every change."}
        </Empty>
      ) : (
        <table className="mt-2 w-full text-read">
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink2">
              <th className="w-[32px]">
                <span className="sr-only">State</span>
              </th>
              <th className="py-1.5 font-normal">Expected</th>
              <th className="w-[220px] font-normal">Now</th>
              <th className="w-[130px] font-normal">Recorded</th>
              <th className="w-[130px]">
                <span className="sr-only">Do</span>
              </th>
            </tr>
          </thead>
          <tbody>
            {shown.map((e) => (
              <Row key={e.id} expectation={e} />
            ))}
          </tbody>
        </table>
      )}
      <NewExpectation open={recording} onClose={() => record(false)} />
    </section>
  );
}

function holdsWords(asked: number | null): string {
  if (asked === null) return "holds";
  return asked === 1 ? "holds, asked once" : `holds, ${asked} answers`;
}

function Row({ expectation: e }: { expectation: Expectation }) {
  const drop = useDropExpectation();
  const words = useReasonWords();
  return (
    <tr className={`h-[37px] border-b border-linen2 ${e.holds ? "" : "bg-rose"}`} data-expectation={e.id}>
      <td className={`border-l-4 pl-1.5 ${e.holds ? "border-transparent" : "border-bar"}`}>
        <Ring holds={e.holds} />
      </td>
      <td className="py-1.5 pr-3">
        {e.who} may {e.expect === "deny" && <strong>not</strong>} {e.verb}{" "}
        <strong className="font-semibold">{e.object}</strong>
        {e.note && <span className={`block text-xs ${e.holds ? "text-ink2" : "text-bar"}`}>{e.note}</span>}
      </td>
      <td className="py-1.5 pr-3 text-ink2">
        {e.holds ? (
          holdsWords(e.asked)
        ) : (
          <span className="text-bar">
            breaks
            {e.against && (
              <span className="block text-xs">
                {e.against.name}
                {e.against.title && e.asked !== 1 ? ` on ${e.against.title}` : ""}: {words(e.against.reason)}
                {e.failed !== null && e.failed > 1 ? `, and ${e.failed - 1} more` : ""}
              </span>
            )}
          </span>
        )}
      </td>
      <td className="py-1.5 text-ink2">
        {[e.recorded_by?.split(" ")[0], day(e.recorded_at)].filter(Boolean).join(", ")}
      </td>
      <td className="text-right">
        {e.against?.account && (
          <WhyPopover
            question={{
              account: e.against.account,
              action: String(e.question.action),
              node: e.against.node ?? undefined,
              field: e.question.field ? String(e.question.field) : undefined,
            }}
          >
            <Button>Why</Button>
          </WhyPopover>
        )}
        <Button
          look="quiet"
          onClick={() => drop.mutate(e.id)}
          aria-label={`Drop: ${e.who} ${e.verb} ${e.object}`}
        >
          Drop
        </Button>
      </td>
    </tr>
  );
}
