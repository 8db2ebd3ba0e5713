// The languages an account can have, by their own names.
import type { Choice } from "./Picker";

export const LANGUAGES: Choice[] = [
  { key: "en", name: "English" },
  { key: "cy", name: "Cymraeg" },
  { key: "da", name: "Dansk" },
  { key: "de", name: "Deutsch" },
  { key: "es", name: "Español" },
  { key: "fi", name: "Suomi" },
  { key: "fr", name: "Français" },
  { key: "ga", name: "Gaeilge" },
  { key: "is", name: "Íslenska" },
  { key: "it", name: "Italiano" },
  { key: "nb", name: "Norsk bokmål" },
  { key: "nl", name: "Nederlands" },
  { key: "pl", name: "Polski" },
  { key: "pt", name: "Português" },
  { key: "sv", name: "Svenska" },
];
