import { type Draft, freshDraft, freshStep } from './fields.ts';

/** A routine to begin with: what it is for, and what of it is still to be said. */
interface ReadyMade {
  readonly name: string;
  readonly what: string;
  readonly draft: Partial<Draft>;
}

const step = (nth: number, part: Partial<ReturnType<typeof freshStep>>) => ({ ...freshStep(), key: `${nth}`, ...part });
const daily = (timeZone: string): Draft['starts'] => ({
  on: 'schedule',
  schedule: { rhythm: { on: 'daily' }, time: '05:00', timeZone },
});
const mondays = (timeZone: string): Draft['starts'] => ({
  on: 'schedule',
  schedule: { rhythm: { on: 'days', days: [1] }, time: '05:00', timeZone },
});

/** Routines that most organisations have use for. What they name (a source, a person) is still to be filled in. @param timeZone where one is */
export const readyMade = (timeZone: string): readonly ReadyMade[] => [
  {
    name: 'What nobody asks for retires',
    what: 'Asks the owners of tables that nobody has asked for in a year, and marks as retiring what nobody wants to keep.',
    draft: {
      filter: 'kind:table,view created<-1y (asked:none or asked<-1y) -standing:retiring',
      steps: [
        step(0, {
          do: 'ask',
          letter:
            'Nobody has asked for it in a year. Do you still need it? What you do not keep is marked as retiring.',
        }),
        step(1, { what: 'standing', to: 'retiring' }),
        step(2, { what: 'notice', to: 'caution', value: 'Nobody has asked for it in a year: it is being retired.' }),
      ],
      starts: mondays(timeZone),
    },
  },
  {
    name: 'A source belongs to somebody',
    what: 'Everything of a source that nobody owns gets its owner, also what comes tomorrow.',
    draft: {
      filter: 'source:"…" kind:table,view,file,"file set" owner:none',
      steps: [step(0, { what: 'owner' })],
      starts: daily(timeZone),
    },
  },
  {
    name: 'Trusted tables stay fresh',
    what: 'Scans the sources of trusted tables that were not read for a week, and writes to who looks after them.',
    draft: {
      filter: 'kind:table standing:trusted fresh<-7d',
      steps: [
        step(0, { do: 'scan' }),
        step(1, {
          do: 'tell',
          whom: 'steward',
          letter:
            'These are trusted, and had not been read for a week. They are being read again: look at what it finds.',
        }),
      ],
      starts: daily(timeZone),
    },
  },
  {
    name: 'New tables are received',
    what: 'What a scan finds for the first time gets a steward, and they are written to.',
    draft: {
      filter: 'kind:table,view',
      steps: [
        step(0, { what: 'steward' }),
        step(1, {
          do: 'tell',
          whom: 'steward',
          letter: 'A scan has brought these. They need an owner, a description, and a look at what was found in them.',
        }),
      ],
      starts: { on: 'happening', what: ['new'] },
    },
  },
  {
    name: 'What somebody leaves behind',
    what: 'What is owned by somebody who has left goes to another owner, and they are written to.',
    draft: {
      filter: 'owner:"…"',
      steps: [
        step(0, { what: 'owner' }),
        step(1, { do: 'tell', whom: 'owner', letter: 'You own these from today on: who owned them has left.' }),
      ],
      starts: mondays(timeZone),
    },
  },
];

/** The values of a form that begins with one of them. */
export const begunWith = ({ name, draft }: ReadyMade): Draft => ({ ...freshDraft(''), name, ...draft });
