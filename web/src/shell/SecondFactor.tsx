// The second step of signing in, for whoever has a second factor.
import { answer, api } from "../api/client";
import { type Kind, Proof } from "../shared/Proof";
import { cameIn } from "../shared/session";
import { Door } from "./Door";

export function SecondFactor({ kinds }: { kinds: Kind[] }) {
  return (
    <Door title="One thing more" says="The password was right. Now show that it is you.">
      <Proof
        kinds={kinds}
        button="Sign in"
        challenge={() => answer(api.PUT("/api/session/factor"))}
        give={async (given) => cameIn(await answer(api.POST("/api/session/factor", { body: given })))}
      />
    </Door>
  );
}
