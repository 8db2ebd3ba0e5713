// Define: the roles, the board of the chosen one, and the chosen cell as a sentence.
import { useParams } from "react-router";
import { Empty, ErrorNotice, Loading } from "../shared/ui";
import { useCatalogue, useRoles } from "../shared/useRoles";
import { RoleBoard } from "./RoleBoard";
import { RoleList } from "./RoleList";

export function DefinePlace() {
  const roles = useRoles();
  const catalogue = useCatalogue();
  const chosen = useParams().role ?? roles.data?.find((role) => !role.baseline)?.key ?? "everyone";
  if (roles.error) return <ErrorNotice error={roles.error} again={roles.refetch} />;
  if (!roles.data || !catalogue.data) return <Loading what="the roles" />;
  const role = roles.data.find(({ key }) => key === chosen);
  return (
    <>
      <RoleList roles={roles.data} chosen={chosen} />
      {role ? (
        <RoleBoard key={role.key} role={role} roles={roles.data} catalogue={catalogue.data} />
      ) : (
        <Empty title="There is no such role">Choose one on the left.</Empty>
      )}
    </>
  );
}
