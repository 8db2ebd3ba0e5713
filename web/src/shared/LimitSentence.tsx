// A limit in words: what it does, to which actions, for whom, with the cloth of the role.
import type { Shapes } from "../api/client";
import { RoleCloth } from "../cloth/RoleCloth";
import { useRoleMap } from "./useRoles";

export const APPLIES: Record<string, string> = {
  node: "here only",
  beneath: "beneath only",
  branch: "here and beneath",
};

const EFFECT: Record<string, string> = { stop: "Stop", bar: "Bar", lift: "Lift" };

export function LimitSentence({ limit }: { limit: Shapes["LimitShape"] }) {
  const roles = useRoleMap();
  const role = limit.subject_kind === "role" ? roles.get(limit.subject ?? "") : undefined;
  return (
    <>
      <strong>{EFFECT[limit.effect]}</strong> {limit.actions?.join(", ") ?? "everything"}{" "}
      <span className="whitespace-nowrap">
        for {role && <RoleCloth cloth={role.cloth} size={13} />} {limit.subject_name}
      </span>
    </>
  );
}
