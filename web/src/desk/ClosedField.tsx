// Something closed: hatched, with its reason one click away.
import { useSession } from "../shared/session";
import { WhyPopover } from "../shared/Why";

type ClosedFieldProps = {
  name: string;
  note: string;
  question: Parameters<typeof WhyPopover>[0]["question"];
};

export function ClosedField({ name, note, question }: ClosedFieldProps) {
  const standing = useSession().data?.standing_in;
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
        <div className="px-[18px] py-2">{line}</div>
      )}
    </div>
  );
}
