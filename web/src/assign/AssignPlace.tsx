// Assign: the roster, and the page of the account one has opened.
import { useParams } from "react-router";
import { Empty } from "../shared/ui";
import { AccountPage } from "./AccountPage";
import { Roster } from "./Roster";

export function AssignPlace() {
  const account = useParams().account ?? "";
  return (
    <>
      <Roster chosen={account} />
      {account ? (
        <AccountPage key={account} account={account} />
      ) : (
        <Empty title="No account is open">
          Choose one in the roster to see what it is given, what that adds up to, and where.
        </Empty>
      )}
    </>
  );
}
