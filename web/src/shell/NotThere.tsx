// An address that leads nowhere.
import { firstPlace, useSession } from "../shared/session";
import { TextLink } from "../shared/TextLink";
import { Empty } from "../shared/ui";

export function NotThere() {
  const session = useSession().data;
  return (
    <Empty title="There is nothing at this address" heading>
      It may have been mistyped, or what was here is gone.{" "}
      <TextLink to={session ? firstPlace(session) : "/"}>Where you begin</TextLink> is always there.
    </Empty>
  );
}
