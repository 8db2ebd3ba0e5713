// The mark of an answer: how far a cloth hangs from its rod is how far the role reaches.
export type MarkExtent = "nothing" | "own" | "team" | "all" | "withheld" | "barred";

type MarkProps = {
  extent: MarkExtent;
  colour?: string;
  inherited?: boolean;
  staged?: boolean;
  stopped?: boolean;
  /** What is set at the very place: a stop, a bar or a lift. */
  set?: "" | "stop" | "bar" | "lift";
  label?: string;
};

const SHAPES = {
  own: "M6 2.6H20V10L13 6L6 10Z",
  team: "M6 2.6H20V16L13 12L6 16Z",
  all: "M6 2.6H20V23L13 19L6 23Z",
} as const;

const NAMES: Record<MarkExtent, string> = {
  nothing: "nothing",
  own: "own",
  team: "team",
  all: "all",
  withheld: "withheld",
  barred: "barred",
};

/** What is set at the very place, by shape: a peg of a stop, two of a bar, a peak of a lift. */
const SET = {
  stop: <path d="M0 20.5V25.5" stroke="#7a1f2b" strokeWidth="2.4" />,
  bar: <path d="M0 17.5V25.5M26 17.5V25.5" stroke="#7a1f2b" strokeWidth="2.4" />,
  lift: <path d="M8 26L13 21.5L18 26" fill="none" stroke="#8a6420" strokeWidth="2" />,
} as const;

/** A 26 px mark. Its state is in `data-` attributes, for styles and tests alike. */
export function Mark({ extent, colour = "#b9841a", inherited, staged, stopped, set = "", label }: MarkProps) {
  const text = label ?? NAMES[extent];
  return (
    <svg
      width="26"
      height="26"
      viewBox="0 0 26 26"
      role="img"
      aria-label={`${text}${inherited ? ", inherited" : ""}${stopped ? ", stopped" : ""}${staged ? ", staged" : ""}`}
      data-extent={extent}
      data-inherited={inherited || undefined}
      data-stopped={stopped || undefined}
      data-set={set || undefined}
      data-staged={staged || undefined}
      className="block overflow-visible"
    >
      <line
        x1="3"
        x2="23"
        y1="2"
        y2="2"
        strokeWidth="1.6"
        stroke={extent === "nothing" ? "#cfc8bb" : "#2a2038"}
        strokeDasharray={inherited ? "2 2" : undefined}
      />
      {extent === "withheld" && (
        <path d="M6 2.6H20V10L13 6.5L6 10Z" fill="none" stroke="#8b8494" strokeWidth="1.3" />
      )}
      {extent === "barred" && (
        <g opacity={inherited ? 0.5 : 1}>
          <path d={SHAPES.all} fill="#3a2a33" />
          <path d="M4.5 20L21.5 5" stroke="#f5f3ee" strokeWidth="3.4" />
          <path d="M4.5 20L21.5 5" stroke="#7a1f2b" strokeWidth="1.6" />
        </g>
      )}
      {(extent === "own" || extent === "team" || extent === "all") && (
        <path d={SHAPES[extent]} fill={colour} fillOpacity={inherited ? 0.42 : 1} />
      )}
      {stopped && (
        <line
          x1="2"
          x2="24"
          y1="25"
          y2="25"
          stroke="#7a1f2b"
          strokeWidth="2.4"
          strokeDasharray={set === "" ? "3 2.5" : undefined}
        />
      )}
      {set !== "" && SET[set]}
      {staged && <circle cx="25" cy="3" r="3.4" fill="#c39134" />}
    </svg>
  );
}

/** The hang for an extent as the API numbers it: 0 nothing, 1 own, 2 team, 3 all. */
export function extentOf(extent: number): MarkExtent {
  return (["nothing", "own", "team", "all"] as const)[extent] ?? "nothing";
}

/** The hang for what a role says about a capability. */
export function extentSaid(says: string | null | undefined): MarkExtent {
  if (!says) return "nothing";
  return says === "yes" ? "all" : (says as MarkExtent);
}
