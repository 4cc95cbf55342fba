export const SECTIONS = [
  ['meaning', 'Meaning'],
  ['columns', 'Contents'],
  ['profile', 'Profile'],
  ['findings', 'Findings'],
  ['lineage', 'Lineage'],
  ['access', 'Access'],
  ['history', 'History'],
] as const;
