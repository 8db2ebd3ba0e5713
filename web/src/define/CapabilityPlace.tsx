// One capability across all roles, each answer a click away from another.

import { Link } from "react-router";
import { RoleCloth } from "../cloth/RoleCloth";
import { headOf } from "../shared/capability";
import { Picker } from "../shared/Picker";
import { ErrorNotice, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { useCatalogue, useRoleMap } from "../shared/useRoles";
import { AnswerMenu } from "./AnswerMenu";
import { rowsOf } from "./grid";
import { plain, sentence } from "./sentence";
import { useCapability, useSetAnswer } from "./useBoard";

export function CapabilityPlace() {
  const catalogue = useCatalogue().data;
  const roles = useRoleMap();
  const [asked, choose] = useParam("cell");
  const all = catalogue ? rowsOf(catalogue, () => true).flatMap(({ capabilities }) => capabilities) : [];
  const capability = all.includes(asked) ? asked : (all[0] ?? "");
  const cells = useCapability(capability);
  const { setAnswer, error } = useSetAnswer();
  if (!catalogue) return <Loading what="the catalogue" />;
  return (
    <section className="flex min-w-0 flex-1 flex-col overflow-y-auto px-[26px] pt-[30px] pb-8">
      <div className="flex flex-wrap items-center gap-3">
        <h1>What every role says</h1>
        <div className="w-[320px]">
          <span id="capability-label" className="sr-only">
            Capability
          </span>
          <Picker
            id="capability"
            what="capability"
            value={capability}
            onPick={choose}
            choices={all.map((key) => ({ key, name: headOf(key, catalogue) }))}
          />
        </div>
      </div>
      <ErrorNotice error={error ?? cells.error} />
      {!cells.data && <Loading what="the answers" />}
      {cells.data && (
        <table className="mt-3 w-full max-w-[860px] text-sm">
          <thead>
            <tr className="border-b border-line text-left text-xs text-ink2">
              <th className="py-1.5 font-medium">Role</th>
              <th className="font-medium">Says</th>
              <th className="font-medium">So that</th>
            </tr>
          </thead>
          <tbody>
            {cells.data.map((cell) => {
              const role = roles.get(cell.role);
              return role ? (
                <tr key={cell.role} className="border-b border-linen2">
                  <th scope="row" className="py-[3px] pr-3 text-left font-semibold">
                    <Link to={`/define/${role.key}?cell=${capability}`} className="flex items-center gap-2">
                      <RoleCloth cloth={role.cloth} size={14} />
                      {role.name}
                    </Link>
                  </th>
                  <td className="w-[130px]">
                    <AnswerMenu
                      role={role}
                      cell={cell}
                      catalogue={catalogue}
                      onSetAnswer={(to, says) => setAnswer(to.key, capability, says)}
                    />
                  </td>
                  <td className="text-ink2">{plain(sentence(role, cell, catalogue))}</td>
                </tr>
              ) : null;
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}
