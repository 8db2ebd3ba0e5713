// Assign: accounts and groups in a roster, and the page of the one that is open, or what is to be done to several.
import { useState } from "react";
import { useParams } from "react-router";
import { AccountPage } from "./AccountPage";
import { BulkPanel } from "./BulkPanel";
import { NOBODY, type Selected } from "./chosen";
import { Roster } from "./Roster";

export function AssignPlace() {
  const account = useParams().account ?? "";
  const [selected, select] = useState<Selected>(NOBODY);
  const many = selected.all || selected.ids.size > 0;
  return (
    <>
      <Roster chosen={account} narrow={account !== "" && !many} selected={selected} onSelect={select} />
      {many && <BulkPanel selected={selected} onDone={() => select(NOBODY)} />}
      {account && !many && <AccountPage key={account} account={account} />}
    </>
  );
}
