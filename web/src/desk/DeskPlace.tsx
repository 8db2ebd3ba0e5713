// The desk: the tree one may see, the page in the middle, what may be changed on the right.
import { useParams } from "react-router";
import { Empty } from "../shared/ui";
import { DeskTree } from "./DeskTree";
import { PagePane } from "./PagePane";

export function DeskPlace() {
  const node = useParams().node ?? "";
  return (
    <>
      <DeskTree chosen={node} />
      {node ? (
        <PagePane key={node} node={node} />
      ) : (
        <Empty heading title="No page is open">
          Choose one in the tree. Names in italics are there for context only.
        </Empty>
      )}
    </>
  );
}
