// Under the X-ray, what is closed to whom one stands in for: its name, the reason in a few words, and Why.
import { useQuery } from "@tanstack/react-query";
import { answer, api, type Shapes } from "../api/client";
import { keys } from "./keys";
import { useReasonWords } from "./useWords";
import { useXray } from "./useXray";
import { WhyPopover, type WhyQuestion } from "./Why";

type ClosedThing = { name: string; reason: string; question: WhyQuestion | null };

export function Closed({ things }: { things: ClosedThing[] }) {
  const words = useReasonWords();
  return things.map(({ name, reason, question }) => (
    <span key={`${name} ${question?.node ?? question?.profile ?? ""}`} className="whitespace-nowrap">
      <span className="border-b border-dashed border-[#8f6620]">{name}</span>{" "}
      <span className="text-ink2">{words(reason)}</span>{" "}
      {question && (
        <WhyPopover question={question}>
          <button type="button" className="underline" aria-label={`Why is ${name} closed?`}>
            Why
          </button>
        </WhyPopover>
      )}
    </span>
  ));
}

/** The rows of a list that they do not have. */
export function ClosedRows({ of }: { of: "waiting" | "bin" | "people" }) {
  const [xray] = useXray();
  const closed = useQuery({
    queryKey: keys.xrayRows(of),
    queryFn: () => answer(api.GET("/api/xray/rows", { params: { query: { of } } })),
    enabled: xray,
  });
  if (!xray || !closed.data) return null;
  return (
    <section
      aria-label="Not there for them"
      className="mt-4 flex max-w-[860px] flex-wrap gap-x-4 gap-y-1 rounded border border-dashed border-[#c28f2c] bg-[#fbf2df] px-3 py-2 text-sm"
    >
      <strong>Not there for them</strong>
      {closed.data.length === 0 && <span className="text-ink2">nothing that you have</span>}
      <Closed things={closed.data.map(thingOf)} />
    </section>
  );
}

export function thingOf({ name, reason, asked }: Shapes["ClosedThingShape"]): ClosedThing {
  return { name, reason, question: asked.action ? (asked as WhyQuestion) : null };
}
