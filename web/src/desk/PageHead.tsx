// The head of a page: title, kind, state, and the actions open to whoever looks at it.
import { type LucideIcon, Redo2, Undo2 } from "lucide-react";
import { useState } from "react";
import { Button, Tag } from "../shared/ui";
import { useHotkey } from "../shared/useHotkey";
import { useCatalogue } from "../shared/useRoles";
import { WhyPopover } from "../shared/Why";
import { HandIn } from "./HandIn";
import { History } from "./History";
import { Others } from "./Others";
import { AskMenu, WhyMenu } from "./PageAsks";
import { PageMenu } from "./PageMenu";
import { Return } from "./Return";
import { SincePublic } from "./SincePublic";
import type { Ghost, Page, Step } from "./useDesk";

const STATES: Record<string, string> = {
  draft: "Draft",
  review: "In review",
  published: "Published",
  retired: "Retired",
};

type HeadProps = {
  page: Page;
  ghosts: Ghost[];
  dirty: boolean;
  busy: boolean;
  looks: boolean;
  /** What became of saving. */
  told: string;
  /** Whether it is saved by itself as one goes. */
  selfSaves: boolean;
  steps: { mayUndo: boolean; mayRedo: boolean; undo: () => void; redo: () => void };
  onTitle: (title: string) => void;
  onSave: () => void;
  onRevert: () => void;
  onPreview: () => void;
  onStep: (step: Step) => void;
};

/** What is marked as closed beside the title; the rest stands beneath the page. */
export const IN_THE_HEAD = ["edit", "publish", "retire"];

export function PageHead({
  page,
  ghosts,
  dirty,
  busy,
  looks,
  told,
  selfSaves,
  steps,
  onTitle,
  onSave,
  onRevert,
  onPreview,
  onStep,
}: HeadProps) {
  const type = useCatalogue().data?.types.find((t) => t.key === page.type);
  const may = (action: string) => page.may.includes(action);
  useHotkey(
    { key: "s", control: true, on: may("edit") && !looks },
    () => (dirty || selfSaves) && !busy && onSave(),
  );
  /** What leads on once all is saved: it stands out then, and saving does while something is not. */
  const next = may("publish") ? page.state !== "published" : may("edit") && page.state === "draft";
  /** What publishing it comes to, for whoever might and on a copy. */
  const tellsChanges = page.working ? page.version > 0 : page.state === "review" && may("publish");
  const [changed, showChanged] = useState(false);
  const closed = ghosts.filter((ghost) => ghost.kind === "action");
  return (
    <header className="mb-3">
      <p className="mb-1 flex min-h-[24px] items-center gap-3 text-xs text-ink2">
        <span className="flex-1 truncate">{page.above.join(" / ")}</span>
        <Others page={page} dirty={dirty} />
        <span role="status" className="shrink-0 font-semibold text-ink">
          {told}
        </span>
        <Undoing dirty={dirty} selfSaves={selfSaves} steps={steps} onRevert={onRevert} />
        {page.tree === "content" && (
          <button
            type="button"
            onClick={onPreview}
            className="shrink-0 underline decoration-line2 underline-offset-2"
          >
            Preview
          </button>
        )}
        {page.state === "published" && page.tree === "content" && (
          <a
            className="shrink-0 underline decoration-line2 underline-offset-2"
            href={`/site/${page.site}/${page.address}`}
          >
            On the site
          </a>
        )}
      </p>
      <div className="flex flex-wrap items-center gap-2.5">
        {may("edit") && <h1 className="sr-only">{page.title}</h1>}
        {may("edit") ? (
          <input
            aria-label="Title"
            value={page.title}
            readOnly={looks}
            onChange={(event) => onTitle(event.target.value)}
            className="field-sizing-content max-w-[420px] min-w-[120px] rounded border border-transparent bg-transparent text-xl font-bold hover:border-line2"
          />
        ) : (
          <h1>{page.title}</h1>
        )}
        <Tag>{type?.name ?? page.type}</Tag>
        <Tag>
          {page.working ? (page.state === "review" ? "Copy in review" : "Working copy") : STATES[page.state]}
        </Tag>
      </div>
      <div className="mt-1.5 flex flex-wrap items-center gap-2">
        {!looks && !page.working && <AskMenu page={page} />}
        {!page.working && <WhyMenu page={page} />}
        {(page.working ? page.version > 0 : may("history")) && (
          <History page={page} dirty={dirty} looks={looks} />
        )}
        {!looks && !page.working && <PageMenu page={page} disabled={busy || dirty} />}
        {tellsChanges && (
          <Button look="quiet" aria-expanded={changed} onClick={() => showChanged(!changed)}>
            {changed
              ? "Hide what changed"
              : page.working
                ? "What would change"
                : "What changed since it was public"}
          </Button>
        )}
        <span className="flex-1" />
        {closed
          .filter(({ key }) => IN_THE_HEAD.includes(key))
          .map(({ key }) => (
            <WhyPopover key={key} question={{ action: key, node: page.id }}>
              <Button className="hatched border-dashed text-ink2!" title="Closed for this account. Why?">
                {key[0]?.toUpperCase() + key.slice(1)}
              </Button>
            </WhyPopover>
          ))}
        {may("retire") && page.state === "published" && (
          <Button disabled={busy || dirty || looks} onClick={() => onStep("retire")}>
            Retire
          </Button>
        )}
        {may("edit") && page.state === "draft" && !may("publish") && (!page.working || page.version > 0) && (
          <HandIn page={page} look={dirty ? "plain" : "main"} disabled={busy || dirty || looks} />
        )}
        {may("edit") && page.state === "review" && (
          <Button disabled={busy || dirty || looks} onClick={() => onStep("take-back")}>
            Take back
          </Button>
        )}
        {may("publish") && page.state === "review" && !looks && (
          <Return page={page} disabled={busy || dirty} />
        )}
        {may("retire") && page.state === "retired" && (
          <Button disabled={busy || dirty || looks} onClick={() => onStep("to-draft")}>
            Make it a draft
          </Button>
        )}
        {may("publish") && page.state !== "published" && (!page.working || page.version > 0) && (
          <Button
            look={dirty ? "plain" : "main"}
            disabled={busy || dirty || looks}
            onClick={() => onStep("publish")}
          >
            Publish
          </Button>
        )}
        {may("edit") && (
          <Button
            look={dirty || !next ? "main" : "plain"}
            disabled={busy || (!dirty && !selfSaves) || looks}
            onClick={onSave}
          >
            Save
          </Button>
        )}
      </div>
      {page.note && (
        <p className="mt-2 rounded border-l-[3px] border-brass bg-[#f6ecd4] px-3 py-1.5 text-sm">
          <strong>{page.state === "review" ? "Handed in with:" : "Returned:"}</strong> {page.note}
        </p>
      )}
      {tellsChanges && changed && <SincePublic of={page} />}
    </header>
  );
}

const SMALL = "rounded px-1 py-0.5 hover:bg-linen2 disabled:text-line2";

/** Steps back and forth among what is not saved yet, by keys too, and back to what is saved. */
function Undoing({
  dirty,
  selfSaves,
  steps,
  onRevert,
}: Pick<HeadProps, "dirty" | "selfSaves" | "steps" | "onRevert">) {
  const { mayUndo, mayRedo, undo, redo } = steps;
  const key = { key: "z", control: true, unlessTyping: true, first: true, on: dirty || mayUndo || mayRedo };
  useHotkey(key, undo);
  useHotkey({ ...key, shift: true }, redo);
  if (!dirty && !mayUndo && !mayRedo) return null;
  return (
    <span className="flex shrink-0 items-center gap-1">
      <StepButton name="Undo" keys="Ctrl Z" on={mayUndo} icon={Undo2} onStep={undo} />
      <StepButton name="Redo" keys="Ctrl Shift Z" on={mayRedo} icon={Redo2} onStep={redo} />
      {dirty && !selfSaves && (
        <button type="button" onClick={onRevert} className={`${SMALL} font-semibold`}>
          Revert
        </button>
      )}
    </span>
  );
}

type StepButtonProps = { name: string; keys: string; on: boolean; icon: LucideIcon; onStep: () => void };

function StepButton({ name, keys, on, icon: Icon, onStep }: StepButtonProps) {
  return (
    <button
      type="button"
      aria-label={name}
      title={`${name} (${keys})`}
      disabled={!on}
      onClick={onStep}
      className={SMALL}
    >
      <Icon size={15} aria-hidden="true" />
    </button>
  );
}
