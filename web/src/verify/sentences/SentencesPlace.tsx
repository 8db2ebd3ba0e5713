// Expectations as sentences: typed and asked line by line, kept as a whole; what is not so beside them.
import { EditorState } from "@codemirror/state";
import { EditorView } from "@codemirror/view";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { ProblemError } from "../../api/client";
import { Button, ErrorNotice, Loading } from "../../shared/ui";
import { useReasonWords } from "../../shared/useWords";
import { learnt, sentencesEditor } from "./editor";
import { Lines } from "./lines";
import { SaidAside } from "./SaidAside";
import { takeAway, useFile, useKeep } from "./useFile";

export function SentencesPlace({ switcher }: { switcher: ReactNode }) {
  const file = useFile();
  if (file.error) return <ErrorNotice error={file.error} again={file.refetch} />;
  if (!file.data) return <Loading what="the sentences" />;
  return <Sentences file={file.data} reload={file.refetch} switcher={switcher} />;
}

type File = { data: string; tag: string };
type SentencesProps = { file: File; reload: () => Promise<{ data?: File }>; switcher: ReactNode };

function Sentences({ file, reload, switcher }: SentencesProps) {
  const [text, setText] = useState(file.data);
  const [tag, setTag] = useState(file.tag);
  const [kept, setKept] = useState(file.data);
  const [version, learn] = useState(0);
  const [trouble, setTrouble] = useState<unknown>(null);
  const lines = useMemo(() => new Lines(), []);
  const reason = useReasonWords();
  const keep = useKeep();
  const place = useRef<HTMLDivElement>(null);
  const view = useRef<EditorView>(null);
  const reasonNow = useRef(reason);
  reasonNow.current = reason;

  // biome-ignore lint/correctness/useExhaustiveDependencies: the editor is made once, and told of what changes
  useEffect(() => {
    if (!place.current) return undefined;
    const told = { lines, reason: (key: string) => reasonNow.current(key), onError: setTrouble };
    const known = EditorView.updateListener.of((update) => {
      if (update.transactions.some((one) => one.effects.some((effect) => effect.is(learnt)))) {
        learn((n) => n + 1);
      }
    });
    const made = new EditorView({
      parent: place.current,
      state: EditorState.create({ doc: file.data, extensions: [sentencesEditor(told, setText), known] }),
    });
    view.current = made;
    return () => made.destroy();
  }, [lines]);

  function show(next: File) {
    setTag(next.tag);
    setKept(next.data);
    const shown = view.current;
    shown?.dispatch({ changes: { from: 0, to: shown.state.doc.length, insert: next.data } });
  }

  async function afresh(take: (next: File) => void) {
    const { data } = await reload();
    if (!data) return;
    keep.reset();
    take(data);
  }

  const problem = keep.error instanceof ProblemError ? keep.error.problem : null;
  const changedMeanwhile = problem?.reason === "changed-meanwhile";
  const changed = text !== kept;
  return (
    <>
      <section className="flex min-w-0 flex-1 flex-col px-[26px] pt-[30px] pb-6">
        <div className="flex flex-wrap items-center gap-2.5">
          <h1>Expectations</h1>
          {switcher}
          <span className="flex-1" />
          <span role="status" className="text-sm text-ink2">
            {keep.isSuccess && !changed ? "Kept." : changed ? "Not kept yet." : ""}
          </span>
          <Button onClick={() => takeAway(false).catch(setTrouble)}>Take away as a file</Button>
          <Button onClick={() => takeAway(true).catch(setTrouble)}>With keys, for a pipeline</Button>
          <Button
            look="main"
            disabled={!changed || keep.isPending}
            onClick={() => keep.mutate({ text, tag }, { onSuccess: show })}
          >
            Keep what is written
          </Button>
        </div>
        <div
          ref={place}
          className="mt-3 min-h-[240px] flex-1 overflow-auto rounded-md border border-line bg-paper"
        />
        {changedMeanwhile ? (
          <div role="alert" className="mt-3 flex items-center gap-3 text-sm text-bar">
            Somebody else changed what is expected meanwhile. Yours is still here.
            <Button onClick={() => afresh(show)}>Take theirs</Button>
            <Button onClick={() => afresh((next) => setTag(next.tag))}>Go on with mine</Button>
          </div>
        ) : problem?.errors ? (
          <ul role="alert" className="mt-3 max-h-[140px] overflow-auto text-sm text-bar">
            {problem.errors.map((error) => (
              <li key={error.pointer}>
                Line {error.pointer.slice(1)}: {error.message}
              </li>
            ))}
          </ul>
        ) : (
          <ErrorNotice error={keep.error} />
        )}
        <ErrorNotice error={trouble} />
      </section>
      <SaidAside text={text} lines={lines} version={version} />
    </>
  );
}
