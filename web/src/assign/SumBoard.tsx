// What everything given adds up to: kinds of content by actions, with the cloth of each role that gives it.
import type { AccountData } from "../shared/useAccounts";
import { useCatalogue } from "../shared/useRoles";
import { useActions } from "../shared/useWords";
import { WhyPopover, type WhyQuestion } from "../shared/Why";
import { type Sum, type SumMark, SumMarks } from "./SumMarks";
import { Narrowed, SumComponents, SumDuties, SumFields } from "./SumParts";

export function SumBoard({ sum, account }: { sum: Sum; account: AccountData["account"] }) {
  const page = sum.kinds.find(
    ({ type, marks, example }) => type !== PROFILE && example && marks.edit?.length,
  );
  return (
    <>
      <Kinds kinds={sum.kinds} account={account} />
      <Narrowed notes={sum.narrowed} />
      <SumDuties duties={sum.duties} account={account.id} />
      <SumFields fields={sum.fields_narrowed} account={account.id} />
      <SumComponents components={sum.components} account={account.id} example={page?.example ?? null} />
    </>
  );
}

function Kinds({ kinds, account }: { kinds: Sum["kinds"]; account: AccountData["account"] }) {
  const catalogue = useCatalogue().data;
  const actions = useActions();
  if (kinds.length === 0) return <p className="text-sm text-ink2">Nothing at all.</p>;
  return (
    <table className="w-full table-fixed">
      <caption className="sr-only">What everything given to {account.name} adds up to</caption>
      <thead>
        <tr className="border-b border-line text-tiny text-ink2">
          <th className="w-[128px] py-1 text-left font-normal">
            <span className="sr-only">Kind</span>
          </th>
          {actions.map((action) => (
            <th key={action.key} scope="col" className="font-normal">
              {action.name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {kinds.map(({ type, marks, example }) => (
          <tr key={type} className="border-b border-linen2">
            <th scope="row" className="truncate text-left text-read font-semibold">
              {catalogue?.types.find((t) => t.key === type)?.name}
            </th>
            {actions.map(({ key: action, name }) => (
              <td key={action} className="h-[32px]">
                <Cell
                  marks={marks[action] ?? []}
                  question={example && asked(action, type, account.id, example.id)}
                  action={name}
                  example={example?.title ?? ""}
                />
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

const PROFILE = "account";

type CellProps = { marks: SumMark[]; question: WhyQuestion | null; action: string; example: string };

/** The marks of an action; why is one click away, by an example of a page. */
function Cell({ marks, question, action, example }: CellProps) {
  const drawn = <SumMarks marks={marks} />;
  if (!question) return <span className="flex justify-center">{drawn}</span>;
  return (
    <WhyPopover question={question} about={`Asked of ${example}, for example.`}>
      <button
        type="button"
        aria-label={`Why? ${action}, for example ${example}`}
        className="flex min-h-[28px] w-full items-center justify-center rounded hover:bg-linen2"
      >
        {drawn}
      </button>
    </WhyPopover>
  );
}

function asked(action: string, type: string, account: string, node: string): WhyQuestion {
  if (type === PROFILE) return { action, account, profile: node };
  return action === "create" ? { action, type, account, node } : { action, account, node };
}
