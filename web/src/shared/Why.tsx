// Why? The trail of one answer in words, with the cloths of the roles that spoke.
import { useQuery } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import { answer, api, type Shapes } from "../api/client";
import { RoleCloth } from "../cloth/RoleCloth";
import { useMayStage } from "./changes/changeSet";
import { ExpectAnswer } from "./expectations/ExpectAnswer";
import { keys } from "./keys";
import { useDuty, useSession } from "./session";
import { TextLink } from "./TextLink";
import { ErrorNotice, Loading } from "./ui";
import { useReasonWords } from "./useWords";

export type WhyQuestion = Shapes["WhyInputRequest"];

export function useWhy(question: WhyQuestion, enabled = true) {
  return useQuery({
    queryKey: keys.why(question),
    queryFn: () => answer(api.GET("/api/why", { params: { query: question } })),
    enabled,
    staleTime: 0,
  });
}

type PopoverProps = { question: WhyQuestion; about?: string; children: ReactNode };

/** A popover that tells why, opened by its child; `about` says what the question is asked of, where that is not plain. */
export function WhyPopover({ question, about, children }: PopoverProps) {
  const [open, setOpen] = useState(false);
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger asChild>{children}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          sideOffset={6}
          collisionPadding={12}
          aria-label="Why"
          className="z-50 w-[430px] max-w-[94vw] rounded-lg border border-brass bg-paper p-4 shadow-2xl"
        >
          <WhyTrail question={question} />
          {about && <p className="mt-2 text-xs text-ink2">{about}</p>}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

export function WhyTrail({ question }: { question: WhyQuestion }) {
  const why = useWhy(question);
  if (why.error) return <ErrorNotice error={why.error} />;
  if (!why.data) return <Loading what="the reason" />;
  return (
    <div>
      <h2 className="mb-2 text-lead">{why.data.title}</h2>
      <WhySteps why={why.data} />
      <WouldTurn question={question} allow={why.data.allow} />
    </div>
  );
}

/** The way to what would turn the answer, for whoever may say something about access. */
function WouldTurn({ question, allow }: { question: WhyQuestion; allow: boolean }) {
  const session = useSession().data;
  const may = useMayStage();
  if (!may && !session?.standing_in) return null;
  const who = question.role || question.account ? {} : { account: session?.subject?.id ?? "" };
  const asked = Object.entries({ ...question, ...who }).filter(([, value]) => value);
  return (
    <TextLink to={`/why?${new URLSearchParams(asked as [string, string][])}`} className="mt-2 block text-sm">
      What would make it {allow ? "no" : "yes"}
    </TextLink>
  );
}

/** The steps of an answer, and what they come to. */
export function WhySteps({ why }: { why: Shapes["WhyShape"] }) {
  const { steps, allow, reason } = why;
  const keeps = useDuty("expectations.keep");
  const standing = useSession().data?.standing_in;
  const wordsFor = useReasonWords();
  return (
    <div data-reason={reason}>
      <ol className="space-y-1.5">
        {steps.map((step, i) => (
          <li key={step.text} className="flex items-start gap-2 text-read">
            <span
              aria-hidden="true"
              className={`flex size-5 shrink-0 items-center justify-center rounded-[3px] text-tiny font-bold ${
                !step.role && !step.good ? "bg-[#3a2a33] text-white" : "bg-chosen"
              }`}
            >
              {!step.role && !step.good ? "!" : i + 1}
            </span>
            {step.role && <RoleCloth cloth={step.role.cloth} size={15} />}
            <span>{step.text}</span>
          </li>
        ))}
      </ol>
      <p className="mt-2.5 border-t border-line pt-2 text-read text-ink2">
        The answer is <strong className="text-ink">{allow ? "yes" : "no"}</strong>: {wordsFor(reason)}.
      </p>
      {(keeps || standing) && <ExpectAnswer asked={why.asked} allow={allow} />}
    </div>
  );
}
