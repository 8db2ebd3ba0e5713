// The seven colours and eight patterns of role cloths.
export const COLOURS = {
  azure: "#2b66ad",
  fir: "#1e7466",
  ochre: "#b9841a",
  murrey: "#8c2f5f",
  tenne: "#b25a22",
  plum: "#69489f",
  slate: "#56636f",
} as const;

export type Cloth = { colour: string; pattern: string };

export function colourOf(cloth: Cloth | undefined): string {
  return COLOURS[(cloth?.colour ?? "slate") as keyof typeof COLOURS] ?? COLOURS.slate;
}

export const PATTERNS = ["plain", "halved", "slant", "band", "chevron", "disc", "head", "bars"] as const;
