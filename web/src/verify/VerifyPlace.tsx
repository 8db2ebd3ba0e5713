// Verify: stand in for someone, and what should hold with how it stands.
import { useState } from "react";
import { Ring } from "../cloth/Ring";
import { NewExpectation } from "../shared/expectations/NewExpectation";
import {
  type Expectation,
  useDropExpectation,
  useExpectations,
} from "../shared/expectations/useExpectations";
import { useDuty } from "../shared/session";
import { day } from "../shared/time";
import { Button, Chip, Empty, ErrorNotice, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { useReasonWords } from "../shared/useWords";
import { WhyPopover } from "../shared/Why";
import { StandInSide } from "./StandInSide";

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
