// What to mind before staged changes are applied: risks newly given, and expectations that would break.
import type { Shapes } from "../../api/client";
import { count } from "../time";
import { useRoleMap } from "../useRoles";

export function Warnings({ touched }: { touched: Shapes["StagedTouchShape"] }) {
  const roles = useRoleMap();
  return (
    <div className="text-sm">
      {touched.risks.length > 0 && (
        <div className="mt-3 rounded border border-[#e2cd9a] bg-[#fbf3df] px-3 py-2">
          <p className="font-semibold">Risky, and newly given</p>
          <ul>
            {touched.risks.map(({ role, what, why }) => (
              <li key={role + what}>
                {roles.get(role)?.name ?? role}: {what}. {why}
              </li>
            ))}
          </ul>
        </div>
      )}
      {touched.breaks && touched.breaks.length > 0 && (
        <div className="mt-3 rounded border border-[#dcb9b4] bg-rose px-3 py-2">
          <p className="font-semibold text-bar">{count(touched.breaks.length, "expectation")} would break</p>
          <ul>
            {touched.breaks.map((sentence) => (
              <li key={sentence}>{sentence}</li>
            ))}
          </ul>
        </div>
      )}
    </div>
  );
}
