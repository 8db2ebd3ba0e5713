// Something closed: hatched, with its reason one click away, and asking for it.
import { useState } from "react";
import { AskAccess } from "../shared/AskAccess";
import { useSession } from "../shared/session";
import { Button } from "../shared/ui";
import { WhyPopover } from "../shared/Why";

type ClosedFieldProps = {
  name: string;
  note: string;
  question: Parameters<typeof WhyPopover>[0]["question"];
};

export function ClosedField({ name, note, question }: ClosedFieldProps) {
  const standing = useSession().data?.standing_in;
  const [asking, ask] = useState(false);
  const line = (
    <span className="flex w-full items-center justify-between">
      <span className="font-semibold text-ink2">{name}</span>
      <span className="text-sm text-ink2">{note}</span>
    </span>
  );
  return (
    <div className="hatched mt-1 border-y border-linen2" data-closed={name}>
      {standing ? (
        <WhyPopover question={question}>
          <button type="button" className="w-full px-[18px] py-2 text-left">
            {line}
          </button>
        </WhyPopover>
      ) : (
        <div className="flex items-center gap-2 px-[18px] py-1">
          {line}
          <Button look="quiet" aria-label={`Ask for ${name}`} onClick={() => ask(true)}>
            Ask
          </Button>
          <AskAccess
            asked={asking ? asked(question) : null}
            words={`change ${name.toLowerCase()}`}
            onClose={() => ask(false)}
          />
        </div>
      )}
    </div>
  );
}

/** The question without whom it is about: one asks for oneself. */
function asked({ account: _, role: __, ...rest }: ClosedFieldProps["question"]) {
  return rest;
}
