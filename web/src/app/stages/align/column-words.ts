/** Names of columns that need a word more. */
export const COLUMN_WORDS: Readonly<Record<string, string>> = {
  across: 'across (scan angle)',
  along: 'along (second angle)',
  planAccuracy: 'accuracy in plan',
  heightAccuracy: 'accuracy of height',
  tiltAccuracy: 'accuracy of roll and pitch',
  headingAccuracy: 'accuracy of heading',
};

/** What is missing, as a sentence; nothing where all is there. */
export function faultOf(chosen: readonly string[], needed: readonly (readonly string[])[]): string {
  const missing = needed.filter((names) => !names.some((name) => chosen.includes(name)));
  return missing.length === 0
    ? ''
    : `No column is ${missing.map((names) => names.map((name) => COLUMN_WORDS[name] ?? name).join(' or ')).join(', ')} yet.`;
}
