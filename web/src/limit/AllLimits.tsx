// Every limit there is, in one list.

import { APPLIES, LimitSentence } from "../shared/LimitSentence";
import { TextButton } from "../shared/TextLink";
import { day } from "../shared/time";
import { Empty, ErrorNotice, Loading } from "../shared/ui";
import { type LimitData, useLimits } from "./useLimits";

export function AllLimits({ onOpen }: { onOpen: (limit: LimitData) => void }) {
  const limits = useLimits();
  if (limits.error) return <ErrorNotice error={limits.error} again={limits.refetch} />;
  if (!limits.data) return <Loading what="the limits" />;
  if (limits.data.length === 0) {
    return (
      <Empty title="There is no limit">Choose a row under Content branches, then add one on the right.</Empty>
    );
  }
  return (
    <div className="min-h-0 flex-1 overflow-y-auto pt-2 pb-6">
      <table className="w-full text-read">
        <thead>
          <tr className="border-b border-line text-left text-xs text-ink2">
            {["Where", "What", "How far", "Set"].map((name) => (
              <th key={name} className="py-1.5 font-normal">
                {name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {limits.data.map((limit) => (
            <tr key={limit.id} className="border-b border-linen2 align-top">
              <td className="py-1.5 pr-3">
                <TextButton className="font-semibold" onClick={() => onOpen(limit)}>
                  {limit.title}
                </TextButton>
              </td>
              <td className={`py-1.5 pr-3 ${limit.staged === "ending" ? "line-through" : ""}`}>
                <LimitSentence limit={limit} />
              </td>
              <td className="py-1.5 pr-3 text-ink2">{APPLIES[limit.applies]}</td>
              <td className="py-1.5 text-ink2">
                {limit.staged
                  ? limit.staged === "new"
                    ? "staged"
                    : "staged to end"
                  : [limit.set_by, limit.set_at && day(limit.set_at)].filter(Boolean).join(", ")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
