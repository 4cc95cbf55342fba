import type { BrokenThing } from '@idrel/contract/worklist';
import { Stack } from '@mantine/core';
import { Link } from 'react-router';
import { KindMark, Name, PriorityMark, When } from '../marks/index.tsx';
import { Listing } from '../marks/Listing.tsx';
import { Behind } from './Reached.tsx';

/** In words: what is so, by what, and what to do about it. */
const WORDS: Readonly<Record<BrokenThing['what'], { is: string; by: string; mend: string }>> = {
  'names what is gone': {
    is: 'is made from what is gone',
    by: 'What is gone from its source',
    mend: 'What makes it names something that the last scan no longer found: its next run, or whoever reads it, fails. If it was renamed, say so among the comparisons of the scan; if it is wrong that it comes from there, strike the edge.',
  },
  'is written no more': {
    is: 'is written by nothing any more',
    by: 'What wrote it',
    mend: 'What is known to have written it does so no longer: what stands in it stays as it was. Say what fills it now, or mark it as retiring.',
  },
  'is made from what retires': {
    is: 'is made from what retires',
    by: 'What is to be retired',
    mend: 'It goes with what it is made from. Have it made from the replacement, or retire it too.',
  },
};
export const brokenInWords = (what: BrokenThing['what']): string => WORDS[what].is;

/** Something that is broken, found without running it. */
export function Broken({ thing, seen }: { thing: BrokenThing; seen: () => void }) {
  const words = WORDS[thing.what];
  return (
    <Stack gap={16}>
      <div>
        <h2>
          <Link to={`/assets/${thing.id}`}>
            <Name text={thing.path} />
          </Link>{' '}
          {words.is}
        </h2>
        <p className="quiet">
          {thing.kind} in {thing.source}, since <When at={thing.since} />
          {thing.priority > 0 ? (
            <>
              {' '}
              · <PriorityMark grade={thing.priority} />
            </>
          ) : null}
        </p>
      </div>
      <p>{words.mend}</p>
      {thing.sign.length > 0 ? (
        <section aria-label={words.by}>
          <h3>{words.by}</h3>
          {thing.causes.length > 0 ? (
            <Listing widths={[34]}>
              {thing.causes.map((cause) => (
                <tr key={cause.id}>
                  <td>
                    <KindMark kind={cause.kind} />
                  </td>
                  <td>
                    <Link to={`/assets/${cause.id}`}>
                      <Name text={cause.path} />
                    </Link>
                  </td>
                </tr>
              ))}
            </Listing>
          ) : null}
          {thing.causes.length < thing.sign.length ? <p className="quiet small">and what you may not see</p> : null}
        </section>
      ) : null}
      <Behind id={thing.id} reached={thing.reached} seen={seen} />
    </Stack>
  );
}
