// An address that leads nowhere.
import { TextLink } from "../shared/TextLink";
import { Empty } from "../shared/ui";

export function NotThere() {
  return (
    <Empty title="There is nothing at this address" heading>
      It may have been mistyped, or what was here is gone. <TextLink to="/sign-in">Where you begin</TextLink>{" "}
      is always there.
    </Empty>
  );
}
