// What a sentence typed into Ctrl K comes to: the answer to a question with its reasons, or what it would stage.
import { useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../api/client";
import { StageSaid } from "../shared/expectations/StageSaid";
import { keys } from "../shared/keys";
import { Turns } from "../shared/turning/Turns";
import { ErrorNotice } from "../shared/ui";
import { useReasonWords } from "../shared/useWords";
import { useWhy, type WhyQuestion, WhySteps } from "../shared/Why";

type Said = Shapes["SaidLineShape"];

/** Whether words are meant as a sentence: they ask whether somebody may, or say that they do. */
export function isSentence(words: string): boolean {
  return (
    /^may \S/i.test(words) || / (may|holds?) /.test(` ${words} `) || /^(stop|bar|lift) .* for /i.test(words)
  );
}

export function FoundSentence({ words }: { words: string }) {
  const text = /^may /i.test(words) && !words.endsWith("?") ? `${words}?` : words;
  const found = useQuery({
    queryKey: keys.said(text),
    queryFn: () => answer(api.POST("/api/sentences", { body: { text } })),
    placeholderData: (before) => before,
  });
  const [said] = found.data ?? [];
  if (found.error) return <ErrorNotice error={found.error} />;
  if (!said) return null;
  return (
    <section aria-label="The sentence" className="max-h-[60vh] overflow-y-auto px-4 py-3 text-sm">
      <Told said={said} />
    </section>
  );
}

function Told({ said }: { said: Said }) {
  const reason = useReasonWords();
  if (said.kind === "unclear") return <Unclear said={said} />;
  const sentence = said.parts.map(({ text }) => text).join("");
  const about = questionOf(said);
  if (said.kind === "question") {
    return (
      <>
        <p className="text-ink2">{sentence}</p>
        <p className="mt-1 text-lead font-semibold">
          {said.so ? "Yes." : `No: ${reason(said.reason ?? "")}.`}
        </p>
        {about && <Reasons question={about} />}
        {about && <Turns question={about} />}
      </>
    );
  }
  if (said.kind === "change") return <Change said={said} />;
  if (said.so === null) return <p className="text-ink2">{said.message}</p>;
  return (
    <>
      <p className="text-ink2">{sentence}</p>
      <p className="mt-1 text-lead font-semibold">{said.so ? "That is so." : "That is not so."}</p>
      {!said.so && said.against && (
        <p className="mt-1">
          {said.against.name}
          {said.against.title ? ` on ${said.against.title}` : ""}: {reason(said.against.reason)}.
        </p>
      )}
      {!said.so && about && <Turns question={about} />}
    </>
  );
}

function Unclear({ said }: { said: Said }) {
  return (
    <>
      <p className="text-ink2">{said.message}</p>
      {said.offers.length > 0 && (
        <ul className="mt-1">
          {said.offers.map(({ text, what }) => (
            <li key={`${what} ${text}`}>
              <strong className="font-semibold">{text}</strong> <span className="text-ink2">{what}</span>
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

function Change({ said }: { said: Said }) {
  if (said.so === null) return <p className="text-ink2">{said.message}</p>;
  return (
    <>
      <p className="text-lead font-semibold">{said.so ? "That is so." : "That is not so."}</p>
      {!said.so && <StageSaid said={said} look="main" />}
    </>
  );
}

function Reasons({ question }: { question: WhyQuestion }) {
  const why = useWhy(question);
  return why.data ? (
    <div className="mt-2">
      <WhySteps why={why.data} />
    </div>
  ) : (
    <ErrorNotice error={why.error} />
  );
}

/** What why is asked of it: the question itself, or the first answer against what was said; nothing for made-up people. */
function questionOf({ kind, question, against }: Said): WhyQuestion | null {
  const { account, action, node, field, type, component, facet } = (question ?? {}) as Record<
    string,
    unknown
  >;
  const who = kind === "question" ? account : against?.account;
  const place = kind === "question" ? node : (against?.node ?? node);
  if (typeof who !== "string" || typeof action !== "string" || (place && typeof place !== "string"))
    return null;
  const part = { field, type, component, facet } as Partial<WhyQuestion>;
  return { account: who, action, ...(place ? { node: place as string } : {}), ...part };
}
