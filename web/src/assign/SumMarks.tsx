// The marks of one thing: the cloths of the roles that give or bar it, each told in words.
import { colourOf } from "../cloth/colours";
import { extentOf, Mark } from "../cloth/Mark";
import { Tip } from "../cloth/Tip";
import type { AccountData } from "../shared/useAccounts";
import { useRoleMap } from "../shared/useRoles";

export type Sum = NonNullable<AccountData["sum"]>;
export type SumMark = Sum["duties"][number]["marks"][number];

const EXTENTS = ["nothing", "what they wrote", "what their team wrote", "all"];

/** `plain` where there is only yes or no. */
export function SumMarks({ marks, plain = false }: { marks: SumMark[]; plain?: boolean }) {
  const roles = useRoleMap();
  if (marks.length === 0) return <Mark extent="nothing" label="nothing" />;
  return marks.map((mark) => {
    const role = roles.get(mark.role ?? "");
    const words = markWords(mark, role?.name ?? "one capability");
    const text = plain ? words.replace("all, by", "by") : words;
    return (
      <Tip key={mark.role ?? "direct"} text={text}>
        <span className="relative">
          {mark.somewhere && <Somewhere />}
          <Mark
            extent={mark.barred ? "barred" : plain ? "all" : extentOf(mark.extent)}
            colour={colourOf(role?.cloth)}
            inherited={mark.baseline}
            label={text}
          />
        </span>
      </Tip>
    );
  });
}

/** A dot beside a mark that holds only somewhere. */
function Somewhere() {
  return (
    <span
      aria-hidden="true"
      className="absolute -right-0.5 bottom-0.5 size-[7px] rounded-full border border-ink2 bg-paper"
    />
  );
}

/** "all, by Tenant editor, only somewhere". */
export function markWords(
  { barred, extent, somewhere }: Omit<SumMark, "role" | "baseline">,
  from: string,
): string {
  const what = barred ? `barred by ${from}` : `${EXTENTS[extent]}, by ${from}`;
  return somewhere ? `${what}, only somewhere` : what;
}
