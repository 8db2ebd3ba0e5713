// One page on the desk: its head with what may be done, its canvas, its parts on the right.
import { useEffect, useState } from "react";
import { useBlocker, useNavigate, useSearchParams } from "react-router";
import { ProblemError } from "../api/client";
import { Dialog, DialogButtons } from "../shared/Dialog";
import { useLooksOnly, useSession } from "../shared/session";
import { keepTyped, typedBefore } from "../shared/typed";
import { Button, Empty, ErrorNotice, Loading } from "../shared/ui";
import { useXray, useXrayPage } from "../shared/useXray";
import { WhyTrail } from "../shared/Why";
import { useRehearsedLists } from "../shared/walks/useWalks";
import { BesideIt } from "./BesideIt";
import { Canvas } from "./Canvas";
import { ChangedMeanwhile } from "./ChangedMeanwhile";
import { newIds } from "./components";
import { LockedPage } from "./Locks";
import { PageHead } from "./PageHead";
import { PartPanel } from "./PartPanel";
import { Preview } from "./Preview";
import { isPublicChanged, PublicChanged } from "./PublicChanged";
import { isUnseen, Unseen } from "./Unseen";
import {
  type Edits,
  type Page,
  theirs,
  useMovePageOn,
  usePage,
  useSavePage,
  useWorkingCopy,
  wayTo,
} from "./useDesk";
import { useEdits } from "./useEdits";
import { isLost, useSelfSaving } from "./useSelfSaving";
import { WalkPanel } from "./WalkPanel";

export function PagePane({ node }: { node: string }) {
  const working = useSearchParams()[0].has("copy");
  const [stands, copy] = [usePage(node), useWorkingCopy(node, working)];
  const page = working ? copy : stands;
  const [xray] = useXray();
  const hidden = page.error instanceof ProblemError && page.error.problem.status === 404;
  if (hidden) return <Hidden node={node} xray={xray} />;
  if (page.error) return <ErrorNotice error={page.error} again={page.refetch} />;
  if (!page.data) return <Loading what="the page" />;
  return <Editor key={String(working)} page={page.data} beside={stands.data?.beside} xray={xray} />;
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
function savedWords({ state, tree, working }: Page): string {
  if (working) return "Saved on the working copy.";
  return state === "published" && tree === "content" ? "Saved, and public now." : "Saved.";
}

type EditorProps = {
  page: Page;
  /** Of a public page, what is beside it. */
  beside: Page["beside"] | undefined;
  xray: boolean;
};

/** What became of what one typed, while it is not saved. */
function unsavedWords({ isPending, error }: { isPending: boolean; error: Error | null }): string {
  if (isLost(error)) return "No connection. What you typed is kept in this browser.";
  return isPending ? "Saving…" : "";
}

/** What stood on a page where some edits change it. */
function stoodBefore(page: Page, { title, topics, components, values }: Partial<Edits>): Partial<Edits> {
  const fields = page.fields.filter(({ key }) => values && key in values);
  return {
    ...(title !== undefined && { title: page.title }),
    ...(topics && { topics: page.topics }),
    ...(components && { components: page.components }),
    ...(values && { values: Object.fromEntries(fields.map(({ key, value }) => [key, value])) }),
  };
}

function Editor({ page, beside, xray }: EditorProps) {
  const navigate = useNavigate();
  const session = useSession().data;
  const standing = Boolean(session?.standing_in);
  const looks = useLooksOnly();
  const account = session?.actor?.id ?? "";
  const typedAs = page.working ? `${page.id}/copy` : page.id;
  const [kept] = useState(() => (standing ? null : typedBefore<Partial<Edits>>(account, typedAs)));
  const { edits, change: edit, ...steps } = useEdits(kept?.edits ?? {});
  const [chosen, choose] = useState<string | null>(null);
  const [begunFrom, beginFrom] = useState<string | null>(kept?.tag ?? null);
  const [previewed, setPreviewed] = useState(false);
  /** Somebody saved meanwhile, and what comes of both is not decided. */
  const [heldBack, holdBack] = useState(false);
  const [takenOff, setTakenOff] = useState<string[]>([]);
  const [told, tell] = useState("");
  const save = useSavePage(page);
  const moveOn = useMovePageOn(page);
  const ghosts = useXrayPage(page.id, xray).data?.ghosts ?? [];
  const dirty = Object.keys(edits).length > 0;
  const shown = {
    ...page,
    title: edits.title ?? page.title,
    topics: edits.topics ?? page.topics,
    components: edits.components ?? page.components,
  };
  const other = theirs(save.error);
  // Not in a rehearsal: each save would be a step of it.
  const selfSaves = !standing && page.may.includes("edit") && (page.working || page.state === "draft");

  useEffect(() => {
    if (!dirty) return;
    const warn = (event: BeforeUnloadEvent) => event.preventDefault();
    window.addEventListener("beforeunload", warn);
    return () => window.removeEventListener("beforeunload", warn);
  }, [dirty]);

  useEffect(() => {
    if (standing) return;
    keepTyped(account, typedAs, dirty ? { edits, tag: begunFrom ?? page.tag } : null);
  }, [account, typedAs, page.tag, edits, begunFrom, dirty, standing]);

  const leaving = useBlocker(
    ({ currentLocation, nextLocation }) =>
      dirty &&
      (currentLocation.pathname !== nextLocation.pathname ||
        currentLocation.search.includes("copy") !== nextLocation.search.includes("copy")) &&
      nextLocation.pathname !== "/sign-in",
  );

  function saveNow(tag = begunFrom ?? page.tag) {
    if (!dirty) return tell(savedWords(page));
    save.mutate(
      { edits, tag, sitting: selfSaves },
      {
        onSuccess: (saved) => {
          const ids = newIds(shown.components, saved.components);
          if (selfSaves) steps.saved({ sent: edits, before: stoodBefore(page, edits), ids });
          else steps.forget();
          beginFrom(saved.tag);
          save.reset();
          choose((id) => (id === null ? null : (ids.get(id) ?? id)));
          setTakenOff(saved.taken_off ?? []);
          tell(savedWords(saved));
          holdBack(false);
        },
      },
    );
  }

  useSelfSaving({
    on: selfSaves && !heldBack,
    edits,
    dirty,
    busy: save.isPending,
    error: save.error,
    save: () => saveNow(),
  });

  function goOn(how: Parameters<typeof moveOn.mutate>[0]) {
    moveOn.mutate(how, {
      // Once its working copy is public, there is none to stay on.
      onSuccess: (now) => page.working && !now.working && navigate(wayTo({ id: page.id }, page.tree)),
    });
  }

  function forget() {
    steps.forget();
    beginFrom(null);
    save.reset();
  }

  // Before one leaves, it is saved; where that fails one is asked.
  const blocked = leaving.state === "blocked";
  // biome-ignore lint/correctness/useExhaustiveDependencies: when one is about to leave, and once it is saved
  useEffect(() => {
    if (!blocked || !selfSaves) return;
    if (!dirty) leaving.proceed?.();
    else if (save.isIdle) saveNow();
  }, [blocked, dirty]);

  function change(next: Partial<Edits>, what: string) {
    // What one began to edit from counts, even if the page is fetched anew meanwhile.
    if (!dirty) beginFrom(page.tag);
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
          told={dirty ? (selfSaves ? unsavedWords(save) : "") : told}
          selfSaves={selfSaves}
          steps={steps}
          onTitle={(title) => change({ title }, "title")}
          onSave={() => saveNow()}
          onRevert={forget}
          onPreview={() => setPreviewed(true)}
          onStep={(step) => {
            tell("");
            goOn({ step });
          }}
        />
        <BesideIt page={page} beside={beside} dirty={dirty} looks={looks} />
        <LockedPage page={page} looks={looks} />
        {!other && !(selfSaves && isLost(save.error)) && <ErrorNotice error={save.error} />}
        {!isUnseen(moveOn.error) && !isPublicChanged(moveOn.error) && <ErrorNotice error={moveOn.error} />}
        <Unseen
          error={moveOn.error}
          onGoOn={() => goOn({ step: "publish", although_unseen: true })}
          onClose={() => moveOn.reset()}
        />
        <PublicChanged
          of={page}
          error={moveOn.error}
          onGoOn={(over) => goOn({ step: "publish", over })}
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
        open={blocked && !(selfSaves && (save.isPending || save.isIdle))}
        onClose={() => leaving.reset?.()}
        title={`Leave ${shown.title} without saving?`}
      >
        <p className="text-ink2">What you changed here would be lost.</p>
        <DialogButtons>
          <Button
            onClick={() => {
              keepTyped(account, typedAs, null);
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
          onKeepMine={() => saveNow(other.tag)}
          onTakeTheirs={forget}
          onClose={() => {
            holdBack(true);
            save.reset();
            leaving.reset?.();
          }}
        />
      )}
    </>
  );
}
