import { SegmentedControl } from '@mantine/core';
import { useNavigate } from 'react-router';

const VIEWS = { terms: '/glossary', tags: '/glossary/tags' } as const;

/** The two lists of words that assets carry. */
export function TermsOrTags({ here }: { here: keyof typeof VIEWS }) {
  const navigate = useNavigate();
  return (
    <SegmentedControl
      fullWidth
      value={here}
      data={[
        { value: 'terms', label: 'Terms' },
        { value: 'tags', label: 'Tags' },
      ]}
      onChange={(value) => navigate(VIEWS[value as keyof typeof VIEWS])}
    />
  );
}
