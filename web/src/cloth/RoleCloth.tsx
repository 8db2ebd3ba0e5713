// A role's own cloth: a colour and a pattern, beside its name wherever it matters.
import { type Cloth, colourOf } from "./colours";

const LIGHT = "#fffdf9";
const SHAPE = "M2 2.6H18V26L10 21L2 26Z";

function Pattern({ pattern }: { pattern: string }) {
  const light = { fill: LIGHT, fillOpacity: 0.55 };
  switch (pattern) {
    case "halved":
      return <path d="M10 2.6H18V26L10 21Z" {...light} />;
    case "slant":
      return <path d="M4 2.6H9L18 18V25.9L15.5 24.4Z" {...light} />;
    case "band":
      return <rect x="2" y="10" width="16" height="5.5" {...light} />;
    case "chevron":
      return <path d="M2 17L10 9.5L18 17V13L10 5.6L2 13Z" {...light} />;
    case "disc":
      return <circle cx="10" cy="11.5" r="3.6" fill={LIGHT} fillOpacity="0.75" />;
    case "head":
      return <rect x="2" y="2.6" width="16" height="7" {...light} />;
    case "bars":
      return (
        <g {...light}>
          <rect x="2" y="6" width="16" height="2.4" />
          <rect x="2" y="11" width="16" height="2.4" />
          <rect x="2" y="16" width="16" height="2.4" />
        </g>
      );
    default:
      return null;
  }
}

export function RoleCloth({ cloth, size = 20 }: { cloth: Cloth | undefined; size?: number }) {
  return (
    <svg
      width={size}
      height={size * 1.3}
      viewBox="0 0 20 26"
      aria-hidden="true"
      className="inline-block shrink-0 align-[-5px]"
      data-colour={cloth?.colour}
      data-pattern={cloth?.pattern}
    >
      <path d={SHAPE} fill={colourOf(cloth)} />
      <Pattern pattern={cloth?.pattern ?? "plain"} />
      <line x1="0" x2="20" y1="2" y2="2" stroke="#2a2038" strokeWidth="1.8" />
    </svg>
  );
}

type Named = { name: string; cloth: Cloth };

/** A cloth with its role's name. */
export function RoleName({ role }: { role: Named }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      <RoleCloth cloth={role.cloth} size={14} />
      <span>{role.name}</span>
    </span>
  );
}
