// The history of a page: each save with what it changed, and bringing an earlier version back.
import { useState } from "react";
import type { Shapes } from "../api/client";
import { Dialog } from "../shared/Dialog";
import { clock, day } from "../shared/time";
import { Button, Chip, ErrorNotice, INPUT, Loading } from "../shared/ui";
import { ToldChanges } from "./ToldChanges";
import { type Page, useRestore, useVersion, useVersions } from "./useDesk";

type VersionRow = Shapes["VersionShape"];
type HistoryProps = { page: Page; dirty: boolean; looks: boolean };

export function History(props: HistoryProps) {
  const [open, show] = useState(false);
  return (
    <>
      <Button look="quiet" onClick={() => show(true)}>
        History
      </Button>
      <Dialog open={open} onClose={() => show(false)} title={`History of ${props.page.title}`} size="large">
        {open && <Versions {...props} onClose={() => show(false)} />}
      </Dialog>
    </>
  );
}

/** What a save did, as the ledger's kinds of entries. */
const DID: Record<VersionRow["did"], string> = {
  made: "made",
  saved: "saved",
  "handed-in": "handed in",
  returned: "returned",
  "taken-back": "taken back",
  published: "published",
  retired: "retired",
  "to-draft": "made a draft again",
};

function Versions({ page, dirty, looks, onClose }: HistoryProps & { onClose: () => void }) {
  const versions = useVersions(page);
  const [chosen, choose] = useState<number | null>(null);
  if (versions.error) return <ErrorNotice error={versions.error} again={versions.refetch} />;
  if (!versions.data) return <Loading what="the history" />;
  const shown = chosen ?? versions.data[0]?.number ?? 1;
  return (
    <div className="grid h-[62vh] grid-cols-[250px_minmax(0,1fr)] gap-5 max-[760px]:grid-cols-1 max-[760px]:grid-rows-[30%_1fr]">
      <ul aria-label="Versions" className="overflow-y-auto border-r border-line pr-3">
        {versions.data.map(({ number, at, by, did, note, now }) => (
          <li key={number}>
            <button
              type="button"
              aria-pressed={number === shown}
              onClick={() => choose(number)}
              className={`w-full rounded px-2 py-1.5 text-left text-read ${number === shown ? "bg-chosen" : "hover:bg-linen2"}`}
            >
              <span className="flex items-baseline gap-2">
                <span className="w-5 shrink-0 font-semibold">{number}</span>
                <span className="min-w-0 flex-1 truncate">{by ?? "nobody in particular"}</span>
                {now && <span className="text-xs text-ink2">as it is</span>}
              </span>
              <span className="block pl-7 text-xs break-words text-ink2">
                {day(at)}, {clock(at)}, {DID[did]}
                {note && `: ${note}`}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <Version
        key={shown}
        page={page}
        versions={versions.data}
        number={shown}
        now={shown === versions.data[0]?.number}
        may={page.may.includes("restore") && !looks && !dirty}
        onDone={onClose}
      />
    </div>
  );
}

type VersionProps = {
  page: Page;
  versions: VersionRow[];
  number: number;
  now: boolean;
  may: boolean;
  onDone: () => void;
};

const BEFORE = 0;

function Version({ page, versions, number, now, may, onDone }: VersionProps) {
  const [other, compare] = useState(BEFORE);
  const [together, setTogether] = useState(false);
  const version = useVersion(page, number, other || number);
  const restore = useRestore(page.id);
  if (version.error) return <ErrorNotice error={version.error} again={version.refetch} />;
  if (!version.data) return <Loading what="the version" />;
  const { kept } = version.data;
  const changes = other === BEFORE ? version.data.before : version.data.between;
  const named = new Map(versions.map((one) => [one.number, nameOf(one)]));
  const earlier = other === BEFORE ? versions.find((one) => one.number < number)?.number : other;
  const pair = [earlier ?? number, number].sort((a, b) => a - b).map((one) => named.get(one) ?? "");
  return (
    <section aria-label="What changed" className="flex min-h-0 flex-col">
      <div className="mb-2 flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-2 text-sm">
          Compared with
          <select
            value={other}
            onChange={(event) => compare(Number(event.target.value))}
            className={`${INPUT} w-[190px]!`}
          >
            <option value={BEFORE}>the one before it</option>
            {versions
              .filter((one) => one.number !== number)
              .map((one) => (
                <option key={one.number} value={one.number}>
                  {nameOf(one)}
                </option>
              ))}
          </select>
        </label>
        <Chip on={!together} onClick={() => setTogether(false)}>
          Side by side
        </Chip>
        <Chip on={together} onClick={() => setTogether(true)}>
          In one
        </Chip>
        <span className="flex-1" />
        {!now && may && (
          <Button
            look="main"
            disabled={restore.isPending}
            onClick={() => restore.mutate({ number, version: page.version }, { onSuccess: onDone })}
          >
            Bring this back
          </Button>
        )}
      </div>
      {!now && may && kept.length > 0 && (
        <p className="mb-2 text-xs text-ink2">Closed to you, and would stay as it is: {kept.join(", ")}.</p>
      )}
      <ErrorNotice error={restore.error} />
      <div className="min-h-0 flex-1 overflow-y-auto">
        {changes.length === 0 && (
          <p className="text-sm text-ink2">
            {earlier === undefined ? "This is where the page begins." : "Nothing you may see."}
          </p>
        )}
        <ToldChanges changes={changes} beside={together ? undefined : [pair[0] ?? "", pair[1] ?? ""]} />
      </div>
    </section>
  );
}

function nameOf({ number, at, now }: VersionRow): string {
  return now ? `${number}, as it is` : `${number}, ${day(at)} ${clock(at)}`;
}
