// Whether the X-ray is on: kept in the address, meaningful only while standing in.
import { useSession } from "../app/session";
import { useParam } from "../app/useParam";

export function useXray(): [boolean, (on: boolean) => void] {
  const [value, set] = useParam("xray");
  const standing = Boolean(useSession().data?.standing_in);
  return [standing && value === "on", (on) => set(on ? "on" : "")];
}
