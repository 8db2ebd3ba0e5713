// Verify: stand in for someone, and what should hold with how it stands, as a list or as sentences.
import { lazy, Suspense } from "react";
import { useDuty } from "../shared/session";
import { Chip, Empty, Loading } from "../shared/ui";
import { useParam } from "../shared/useParam";
import { Expectations } from "./Expectations";
import { StandInSide } from "./StandInSide";
import { Coverage } from "./walks/Coverage";

const SentencesPlace = lazy(() =>
  import("./sentences/SentencesPlace").then((module) => ({ default: module.SentencesPlace })),
);

export function VerifyPlace() {
  const keeps = useDuty("expectations.keep");
  const [as, setAs] = useParam("as");
  const switcher = (
    <>
      <Chip on={as !== "sentences"} onClick={() => setAs("")}>
        As a list
      </Chip>
      <Chip on={as === "sentences"} onClick={() => setAs("sentences")}>
        As sentences
      </Chip>
    </>
  );
  if (keeps && as === "sentences") {
    return (
      <Suspense fallback={<Loading what="the sentences" />}>
        <SentencesPlace switcher={switcher} />
      </Suspense>
    );
  }
  return (
    <>
      <StandInSide />
      {keeps && (
        <section
          aria-label="What should hold"
          className="min-w-0 flex-1 overflow-y-auto px-[24px] pt-[30px] pb-8"
        >
          <Coverage />
          <Expectations switcher={switcher} />
        </section>
      )}
      {!keeps && (
        <section className="min-w-0 flex-1 px-[24px] pt-[30px]">
          <h1>Expectations</h1>
          <Empty title="Closed to you">What is expected is told to whoever keeps expectations.</Empty>
        </section>
      )}
    </>
  );
}
