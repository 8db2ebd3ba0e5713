// The history of a page: each save with what it changed, and bringing an earlier version back.
import { useState } from "react";
import { Dialog } from "../shared/Dialog";
import { clock, day } from "../shared/time";
import { Button, Chip, ErrorNotice, Loading } from "../shared/ui";
import { ToldChanges } from "./ToldChanges";
import { type Page, useRestore, useVersion, useVersions } from "./useDesk";

type HistoryProps = { page: Page; dirty: boolean; standing: boolean };

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

function Versions({ page, dirty, standing, onClose }: HistoryProps & { onClose: () => void }) {
  const versions = useVersions(page.id, true);
  const [chosen, choose] = useState<number | null>(null);
  if (versions.error) return <ErrorNotice error={versions.error} again={versions.refetch} />;
  if (!versions.data) return <Loading what="the history" />;
  const shown = chosen ?? versions.data[0]?.number ?? 1;
  return (
    <div className="grid h-[62vh] grid-cols-[250px_minmax(0,1fr)] gap-5 max-[760px]:grid-cols-1 max-[760px]:grid-rows-[30%_1fr]">
      <ul aria-label="Versions" className="overflow-y-auto border-r border-line pr-3">
        {versions.data.map(({ number, at, by, state, now }) => (
          <li key={number}>
            <button
              type="button"
              aria-pressed={number === shown}
              onClick={() => choose(number)}
              className={`w-full rounded px-2 py-1.5 text-left text-read ${number === shown ? "bg-chosen" : "hover:bg-linen2"}`}
            >
              <span className="flex justify-between gap-2 font-semibold">
                {day(at)}, {clock(at)}
                <span className="text-xs font-normal text-ink2">{now ? "as it is" : state}</span>
              </span>
              <span className="block truncate text-xs text-ink2">{by ?? "nobody in particular"}</span>
            </button>
          </li>
        ))}
      </ul>
      <Version
        key={shown}
        page={page}
        number={shown}
        now={shown === page.version}
        may={page.may.includes("restore") && !standing && !dirty}
        onDone={onClose}
      />
    </div>
  );
}

type VersionProps = { page: Page; number: number; now: boolean; may: boolean; onDone: () => void };

function Version({ page, number, now, may, onDone }: VersionProps) {
  const version = useVersion(page.id, number);
  const restore = useRestore(page.id);
  const [side, setSide] = useState<"before" | "since">("before");
  if (version.error) return <ErrorNotice error={version.error} again={version.refetch} />;
  if (!version.data) return <Loading what="the version" />;
  const { kept } = version.data;
  return (
    <section aria-label="What changed" className="flex min-h-0 flex-col">
      <div className="mb-2 flex items-center gap-2">
        <Chip on={side === "before"} onClick={() => setSide("before")}>
          What this save changed
        </Chip>
        {!now && (
          <Chip on={side === "since"} onClick={() => setSide("since")}>
            What changed since
          </Chip>
        )}
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
        {version.data[side].length === 0 && (
          <p className="text-sm text-ink2">
            {side === "before" ? "This is where the page begins." : "Nothing you may see."}
          </p>
        )}
        <ToldChanges changes={version.data[side]} />
      </div>
    </section>
  );
}
