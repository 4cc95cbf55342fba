export const SECTIONS = [
  ['meaning', 'Meaning'],
  ['guide', 'Guide'],
  ['columns', 'Contents'],
  ['rows', 'Rows'],
  ['profile', 'Profile'],
  ['findings', 'Findings'],
  ['lineage', 'Lineage'],
  ['use', 'Use'],
  ['access', 'Access'],
  ['discussion', 'Discussion'],
  ['history', 'History'],
] as const;
