// One page on the desk: its head with what may be done, its canvas, its parts on the right.
import { useEffect, useState } from "react";
import { useBlocker } from "react-router";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { useLooksOnly, useSession } from "../shared/session";
import { keepTyped, typedBefore } from "../shared/typed";
import { Button, Empty, ErrorNotice, Loading } from "../shared/ui";
import { useXray, useXrayPage } from "../shared/useXray";
import { WhyTrail } from "../shared/Why";
import { useRehearsedLists } from "../shared/walks/useWalks";
import { Canvas } from "./Canvas";
import { ChangedMeanwhile } from "./ChangedMeanwhile";
import { LockedPage } from "./Locks";
import { PageHead } from "./PageHead";
import { PartPanel } from "./PartPanel";
import { Preview } from "./Preview";
import { isUnseen, Unseen } from "./Unseen";
import { type Edits, type Page, theirs, useMovePageOn, usePage, useSavePage } from "./useDesk";
import { useEdits } from "./useEdits";
import { WalkPanel } from "./WalkPanel";

export function PagePane({ node }: { node: string }) {
  const page = usePage(node);
  const [xray] = useXray();
  const hidden = page.error instanceof ProblemError && page.error.problem.status === 404;
  if (hidden) return <Hidden node={node} xray={xray} />;
  if (page.error) return <ErrorNotice error={page.error} again={page.refetch} />;
  if (!page.data) return <Loading what="the page" />;
  return <Editor page={page.data} xray={xray} />;
}

/** What stands where a page may not be seen: nothing, or while standing in the reason. */
function Hidden({ node, xray }: { node: string; xray: boolean }) {
  const standing = useSession().data?.standing_in;
  const ghost = useXrayPage(node, xray);
  const lists = useRehearsedLists();
  if (!standing)
    return (
      <Empty heading title="There is no such page, or you may not see it">
        Choose another in the tree.
      </Empty>
    );
  return (
    <>
      <section className="min-w-0 flex-1 overflow-y-auto p-6">
        <div className="hatched max-w-[560px] rounded-lg border border-dashed border-line2 bg-paper p-5">
          <h1 className="mb-1">{xray && ghost.data ? ghost.data.title : "Not there for this account"}</h1>
          <p className="mb-3 text-ink2">
            For this account the page is not there at all, neither here nor in what the server answers.
          </p>
          <WhyTrail question={{ action: "see", node }} />
        </div>
      </section>
      {lists.length > 0 && (
        <aside
          aria-label="Walk list"
          className="w-[318px] shrink-0 overflow-y-auto border-l border-line bg-paper pt-[16px] pb-8"
        >
          <WalkPanel node={node} lists={lists} />
        </aside>
      )}
    </>
  );
}

/** What cleaning took off the texts that were saved. */
function TakenOff({ names }: { names: string[] }) {
  if (names.length === 0) return null;
  return (
    <p role="status" className="my-2 rounded border border-brass bg-[#fbf3dc] px-3 py-2 text-sm">
      Saved without <strong>{names.join(", ")}</strong>: no markup set that you may use here lets that
      through.
    </p>
  );
}

/** Saving what is public changes what visitors read. */
function savedWords({ state, tree }: Page): string {
  return state === "published" && tree === "content" ? "Saved, and public now." : "Saved.";
}

function Editor({ page, xray }: { page: Page; xray: boolean }) {
  const session = useSession().data;
  const standing = Boolean(session?.standing_in);
  const looks = useLooksOnly();
  const account = session?.actor?.id ?? "";
  const [kept] = useState(() => (standing ? null : typedBefore<Partial<Edits>>(account, page.id)));
  const { edits, change: edit, ...steps } = useEdits(kept?.edits ?? {});
  const [chosen, choose] = useState<string | null>(null);
  const [keptVersion, keepVersion] = useState<number | null>(kept?.version ?? null);
  const [previewed, setPreviewed] = useState(false);
  const [takenOff, setTakenOff] = useState<string[]>([]);
  const [told, tell] = useState("");
  const save = useSavePage(page.id);
  const moveOn = useMovePageOn(page.id);
  const ghosts = useXrayPage(page.id, xray).data?.ghosts ?? [];
  const dirty = Object.keys(edits).length > 0;
  const shown = {
    ...page,
    title: edits.title ?? page.title,
    topics: edits.topics ?? page.topics,
    components: edits.components ?? page.components,
  };
  const other = theirs(save.error);

  useEffect(() => {
    if (!dirty) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [dirty]);

  useEffect(() => {
    if (standing) return;
    keepTyped(account, page.id, dirty ? { edits, version: keptVersion ?? page.version } : null);
  }, [account, page.id, page.version, edits, keptVersion, dirty, standing]);

  const leaving = useBlocker(
    ({ currentLocation, nextLocation }) =>
      dirty && currentLocation.pathname !== nextLocation.pathname && nextLocation.pathname !== "/sign-in",
  );

  function saveNow(version = keptVersion ?? page.version) {
    save.mutate(
      { edits, version },
      {
        onSuccess: (saved) => {
          forget();
          // A part that is new has another id now, at the same place.
          const at = shown.components.findIndex(({ id }) => id === chosen);
          choose(saved.components[at]?.id ?? null);
          setTakenOff(saved.taken_off ?? []);
          tell(savedWords(saved));
        },
      },
    );
  }

  function forget() {
    steps.forget();
    keepVersion(null);
    save.reset();
  }

  function change(next: Partial<Edits>, what: string) {
    // What one began to edit from counts, even if the page is fetched anew meanwhile.
    if (!dirty) keepVersion(page.version);
    edit(next, what);
  }

  return (
    <>
      <section
        className="min-w-0 flex-1 overflow-y-auto px-[26px] pt-[16px] pb-10 max-[760px]:px-3 max-[760px]:group-data-[side=fields]/desk:hidden"
        aria-label={page.title}
      >
        <PageHead
          page={shown}
          ghosts={ghosts}
          dirty={dirty}
          busy={save.isPending || moveOn.isPending}
          looks={looks}
          told={dirty ? "" : told}
          steps={steps}
          onTitle={(title) => change({ title }, "title")}
          onSave={() => saveNow()}
          onRevert={forget}
          onPreview={() => setPreviewed(true)}
          onStep={(step) => {
            tell("");
            moveOn.mutate({ step, version: page.version });
          }}
        />
        <LockedPage page={page} looks={looks} />
        {!other && <ErrorNotice error={save.error} />}
        {!isUnseen(moveOn.error) && <ErrorNotice error={moveOn.error} />}
        <Unseen
          error={moveOn.error}
          onGoOn={() => moveOn.mutate({ step: "publish", version: page.version, although_unseen: true })}
          onClose={() => moveOn.reset()}
        />
        {!dirty && <TakenOff names={takenOff} />}
        {kept && dirty && (
          <p role="status" className="my-2 rounded border border-brass bg-[#fbf3dc] px-3 py-2 text-sm">
            What you typed here before is back, and not saved yet.
          </p>
        )}
        <Canvas
          page={shown}
          ghosts={ghosts}
          chosen={chosen}
          onChoose={choose}
          onChange={(components, what) => change({ components }, what)}
        />
      </section>
      <PartPanel
        page={shown}
        values={edits.values ?? {}}
        ghosts={ghosts}
        chosen={chosen}
        problem={save.error instanceof ProblemError ? save.error : null}
        onComponents={(components, what) => change({ components }, what)}
        onChoose={choose}
        onTopics={(topics) => change({ topics }, "topics")}
        onValue={(key, value) => change({ values: { ...edits.values, [key]: value } }, `value ${key}`)}
      />
      <Dialog
        open={leaving.state === "blocked"}
        onClose={() => leaving.reset?.()}
        title={`Leave ${shown.title} without saving?`}
      >
        <p className="text-ink2">What you changed here would be lost.</p>
        <DialogButtons>
          <Button
            onClick={() => {
              keepTyped(account, page.id, null);
              leaving.proceed?.();
            }}
          >
            Leave it
          </Button>
          <Button look="main" onClick={() => leaving.reset?.()}>
            Stay here
          </Button>
        </DialogButtons>
      </Dialog>
      <Preview page={shown} edits={edits} open={previewed} onClose={() => setPreviewed(false)} />
      {other && (
        <ChangedMeanwhile
          base={page}
          mine={{ ...shown, values: edits.values ?? {} }}
          theirs={other}
          onKeepMine={() => saveNow(other.version)}
          onTakeTheirs={forget}
          onClose={() => save.reset()}
        />
      )}
    </>
  );
}
