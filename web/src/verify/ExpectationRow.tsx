// One expectation: the sentence, how it stands, what broke it, who recorded it.
import { Ring } from "../cloth/Ring";
import { type Expectation, useDropExpectation, useWhatBroke } from "../shared/expectations/useExpectations";
import { day, when } from "../shared/time";
import { Button } from "../shared/ui";
import { useReasonWords } from "../shared/useWords";
import { WhyPopover } from "../shared/Why";
import { Sentence } from "./Sentence";

type RowProps = { expectation: Expectation; tellsBroke: boolean };

export function ExpectationRow({ expectation: e, tellsBroke }: RowProps) {
  const drop = useDropExpectation();
  return (
    <tr className={`h-[37px] border-b border-linen2 ${e.holds ? "" : "bg-rose"}`} data-expectation={e.id}>
      <td className={`border-l-4 pl-1.5 ${e.holds ? "border-transparent" : "border-bar"}`}>
        <Ring holds={e.holds} />
      </td>
      <td className="py-1.5 pr-3">
        <Sentence parts={e.parts} />
        {e.note && <span className={`block text-xs ${e.holds ? "text-ink2" : "text-bar"}`}>{e.note}</span>}
        {!e.holds && tellsBroke && <Broke expectation={e} />}
      </td>
      <td className="py-1.5 pr-3 text-ink2">{e.holds ? holdsWords(e.asked) : <Breaks expectation={e} />}</td>
      <td className="py-1.5 text-ink2">
        {[e.recorded_by?.split(" ")[0], day(e.recorded_at)].filter(Boolean).join(", ")}
      </td>
      <td className="text-right whitespace-nowrap">
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
        <Button look="quiet" onClick={() => drop.mutate(e.id)} aria-label={`Drop: ${e.sentence}`}>
          Drop
        </Button>
      </td>
    </tr>
  );
}

export function holdsWords(asked: number | null): string {
  if (asked === null) return "holds";
  if (asked === 0) return "holds, asks nothing";
  return asked === 1 ? "holds, asked once" : `holds, ${asked} answers`;
}

function Breaks({ expectation: e }: { expectation: Expectation }) {
  const words = useReasonWords();
  return (
    <span className="text-bar">
      breaks
      {e.against && (
        <span className="block text-xs">
          {e.against.name}
          {e.against.title && e.asked !== 1 ? ` on ${e.against.title}` : ""}: {words(e.against.reason)}
          {e.against.at ? `, ${when(e.against.at)}` : ""}
          {e.failed !== null && e.failed > 1 ? `, and ${e.failed - 1} more` : ""}
        </span>
      )}
    </span>
  );
}

/** What broke it, as far as the ledger is told to whoever looks; nothing where it never held. */
function Broke({ expectation: { id, recorded_at } }: { expectation: Expectation }) {
  const broke = useWhatBroke(id, true).data;
  if (!broke?.at || new Date(broke.at) < new Date(recorded_at)) return null;
  const [entry] = broke.entries;
  const what = entry ? `${entry.summary}, ${entry.actor ?? "nobody"}` : "A change of access";
  return (
    <span className="block text-xs text-bar">
      {what}, {when(broke.at)}
    </span>
  );
}
