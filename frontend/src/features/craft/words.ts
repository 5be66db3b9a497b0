/** What a craft and its battery may be, in words to choose from. */
export const CRAFTS = [
  ["boat", "boat"],
  ["vehicle", "vehicle"],
  ["caravan", "caravan"],
  ["other", "other"],
] as const;
export const NOMINALS = [
  ["12", "12 V"],
  ["24", "24 V"],
  ["48", "48 V"],
] as const;
export const POLARITIES = [
  ["negative", "negative to chassis or hull"],
  ["positive", "positive to chassis or hull"],
  ["none", "two-wire, insulated from chassis or hull"],
] as const;
/** How a craft of its kind is usually wired, until somebody says otherwise; as the core has it for one load. */
export const USUAL_POLARITY = {
  boat: "none",
  vehicle: "negative",
  caravan: "negative",
  other: "negative",
} as const;
export const BATTERIES = [
  ["flooded", "lead, flooded"],
  ["agm", "lead, AGM"],
  ["lithium", "lithium iron phosphate"],
  ["none", "No battery (power supply)"],
] as const;
