// Two to four roles side by side: what they say differently, and carrying an answer across.

import { Link } from "react-router";
import { RoleCloth } from "../cloth/RoleCloth";
import { headOf } from "../shared/capability";
import { Picker } from "../shared/Picker";
import { roleChoices } from "../shared/pickers";
import { count } from "../shared/time";
import { Button, Chip, Empty, ErrorNotice, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { type Catalogue, type Role, useCatalogue, useRoles } from "../shared/useRoles";
import { AnswerMenu } from "./AnswerMenu";
import { CompareBeside } from "./CompareBeside";
import { rowsOf } from "./grid";
import { type Cell, effective } from "./sentence";
import { useBoards, useSetAnswer } from "./useBoard";
import { useVirtualLines } from "./virtual";

const MOST = 4;
const LINE = 35;

export function ComparePlace() {
  const [chosen, choose] = useParam("roles");
  const [everything, setEverything] = useParam("all");
  const roles = useRoles();
  const catalogue = useCatalogue();
  const keys = chosen.split(",").filter(Boolean).slice(0, MOST);
  const boards = useBoards(keys);
  const { setAnswer, error } = useSetAnswer();
  const failed = boards.find((board) => board.error) ?? roles;
  if (failed.error) return <ErrorNotice error={failed.error} again={failed.refetch} />;
  if (!roles.data || !catalogue.data) return <Loading what="the roles" />;
  const compared = keys
    .map((key) => roles.data.find((role) => role.key === key))
    .filter((role) => role !== undefined);
  const cells = boards.map((board) => new Map(board.data?.cells.map((cell) => [cell.capability, cell])));
  const differs = (capability: string) => new Set(cells.map((of) => heldBy(of.get(capability)))).size > 1;
  const ready = boards.every((board) => board.data);
  const rows = rowsOf(catalogue.data, (capability) => everything !== "" || differs(capability));
  const lines = rows.flatMap(({ area, capabilities }) =>
    capabilities
      .filter((capability) => everything !== "" || differs(capability))
      .map((capability) => ({ area, capability })),
  );
  return (
    <section data-scrolls className="flex min-w-0 flex-1 flex-col overflow-y-auto px-[26px] pt-[30px] pb-8">
      <div className="flex flex-wrap items-center gap-2">
        <h1 className="mr-2">Compare roles</h1>
        <Chip on={everything === ""} onClick={() => setEverything("")}>
          Differences{" "}
          {ready && keys.length > 1 && everything === "" && <span className="figures">{lines.length}</span>}
        </Chip>
        <Chip on={everything !== ""} onClick={() => setEverything("yes")}>
          Everything
        </Chip>
        <span className="flex-1" />
        <AddRole
          roles={roles.data.filter(({ key }) => !keys.includes(key))}
          disabled={keys.length >= MOST}
          onAdd={(key) => choose([...keys, key].join())}
        />
      </div>
      <ErrorNotice error={error} />
      {!ready && <Loading what="the boards" />}
      {keys.length < 2 && (
        <Empty title="Choose another role">
          Two to {MOST} roles are compared. Add one on the right, above.
        </Empty>
      )}
      {ready && keys.length > 1 && lines.length === 0 && (
        <Empty title="They say the same">These roles differ in no answer on their boards.</Empty>
      )}
      {ready && keys.length > 1 && lines.length > 0 && (
        <table aria-rowcount={lines.length + 1} className="mt-3 w-full table-fixed text-sm">
          <caption className="sr-only">{count(lines.length, "answer")} side by side</caption>
          <thead className="sticky -top-[30px] z-10 bg-linen">
            <tr className="border-b border-line text-left align-bottom">
              <th className="w-[30%] py-1.5 pr-3 text-xs font-medium text-ink2">Capability</th>
              {compared.map((role) => (
                <th key={role.key} className="py-1.5 pr-3 font-semibold">
                  <span className="flex items-center gap-1.5">
                    <RoleCloth cloth={role.cloth} size={14} />
                    <Link to={`/define/${role.key}`} className="min-w-0 wrap-anywhere">
                      {role.name}
                    </Link>
                    <Button
                      look="quiet"
                      className="px-1! py-0!"
                      aria-label={`Leave ${role.name} out`}
                      onClick={() => choose(keys.filter((key) => key !== role.key).join())}
                    >
                      ×
                    </Button>
                  </span>
                </th>
              ))}
            </tr>
          </thead>
          <Lines
            lines={lines}
            compared={compared}
            cells={cells}
            catalogue={catalogue.data}
            onSetAnswer={setAnswer}
          />
        </table>
      )}
      {ready && keys.length > 1 && (
        <CompareBeside
          roles={compared}
          boards={boards.map(({ data }) => data).filter((board) => board !== undefined)}
          catalogue={catalogue.data}
          everything={everything !== ""}
        />
      )}
    </section>
  );
}

type LinesProps = {
  lines: { capability: string }[];
  compared: Role[];
  cells: Map<string, Cell>[];
  catalogue: Catalogue;
  onSetAnswer: (role: string, capability: string, says: string | null) => void;
};

function Lines({ lines, compared, cells, catalogue, onSetAnswer }: LinesProps) {
  const { list, shown, above, beneath } = useVirtualLines(lines.length, LINE);
  return (
    <tbody ref={list}>
      <tr style={{ height: above }} />
      {shown.map((index) => {
        const capability = lines[index]?.capability ?? "";
        return (
          <tr
            key={capability}
            aria-rowindex={index + 2}
            style={{ height: LINE }}
            className="border-b border-linen2"
          >
            <th scope="row" className="pr-3 text-left font-medium">
              {headOf(capability, catalogue)}
            </th>
            {compared.map((role, i) => {
              const cell = cells[i]?.get(capability);
              return (
                <td key={role.key}>
                  {cell && (
                    <AnswerMenu
                      role={role}
                      cell={cell}
                      catalogue={catalogue}
                      others={compared.filter(({ key }) => key !== role.key)}
                      onSetAnswer={(to, says) => onSetAnswer(to.key, capability, says)}
                    />
                  )}
                </td>
              );
            })}
          </tr>
        );
      })}
      <tr style={{ height: beneath }} />
    </tbody>
  );
}

/** What counts, whatever it comes from: that is what differs between people. */
function heldBy(cell: Cell | undefined): string | null {
  return cell ? effective(cell).says : null;
}

type AddProps = { roles: Role[]; disabled: boolean; onAdd: (key: string) => void };

function AddRole({ roles, disabled, onAdd }: AddProps) {
  return (
    <Picker
      what="role"
      choices={roleChoices(roles)}
      disabled={disabled}
      onPick={onAdd}
      trigger={<Button disabled={disabled}>Compare with another</Button>}
    />
  );
}
