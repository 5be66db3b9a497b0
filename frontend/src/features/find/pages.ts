/** Where the pages of a job are, and what they are called. */
export const jobPages = (job: string): [to: string, name: string][] => [
  [`/jobs/${job}`, "Run sheet"],
  [`/jobs/${job}/craft`, "The craft"],
  [`/jobs/${job}/walk`, "Walk"],
  [`/jobs/${job}/source`, "Source check"],
  [`/jobs/${job}/upgrade`, "Repairs and upgrades"],
  [`/jobs/${job}/sizing`, "Sizes"],
  [`/jobs/${job}/order`, "Work order"],
  [`/jobs/${job}/proof`, "Proof"],
  [`/jobs/${job}/photographs`, "Photographs"],
  [`/jobs/${job}/logs`, "Meter logs"],
  [`/jobs/${job}/live`, "Live meters"],
  [`/jobs/${job}/timeline`, "What was done"],
];

/** The pages of the workshop, and what can be begun from anywhere. */
export const WORKSHOP: [to: string, name: string][] = [
  ["/", "Jobs"],
  ["/check", "Check one load"],
  ["/?begin=job", "New job"],
  ["/?begin=import", "Import a job file"],
  ["/tables", "Tables"],
  ["/learned", "Learned here"],
  ["/settings", "Settings"],
  ["/phones", "Phones"],
  ["/meters", "Meters"],
  ["/practise", "Practise"],
];
