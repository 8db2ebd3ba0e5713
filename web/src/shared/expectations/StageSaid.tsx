// What a sentence says should be and is not: staged by one click.
import type { Shapes } from "../../api/client";
import { useMayStage, useStage } from "../changes/changeSet";
import { Button, ErrorNotice } from "../ui";

export function StageSaid({
  said,
  look = "plain",
}: {
  said: Shapes["SaidLineShape"];
  look?: "plain" | "main";
}) {
  const stage = useStage();
  const may = useMayStage();
  if (!may) return null;
  return (
    <>
      <Button
        look={look}
        className="mt-1.5"
        disabled={stage.isPending || stage.isSuccess}
        onClick={() => stage.mutate(said.operations as Parameters<typeof stage.mutate>[0])}
      >
        {stage.isSuccess ? "Staged" : "Stage it"}
      </Button>
      <ErrorNotice error={stage.error} />
    </>
  );
}
