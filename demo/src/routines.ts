import { peopleEndpoints } from '@idrel/contract/people';
import { type RoutineBody, routineEndpoints } from '@idrel/contract/routines';
import { Client } from './client.ts';

/** By the clock of the ferries, when nobody works. */
const MONDAYS = {
  on: 'schedule',
  schedule: { rhythm: { on: 'days', days: [1] }, time: '05:00', timeZone: 'Europe/Oslo' },
} as const;

/** Routines that keep things: each run once by who keeps it, then by themselves. */
export async function keepWithRoutines(address: string): Promise<void> {
  const engineer = new Client(address);
  const steward = new Client(address);
  await engineer.signInAs('Rafe Quillon');
  await steward.signInAs('Sunniva Dahlmark');
  const people = await steward.ask(peopleEndpoints.people);
  const idOf = (name: string) => people.find((person) => person.name === name)?.id ?? '';
  const keep = async (who: Client, body: Pick<RoutineBody, 'name' | 'filter' | 'steps' | 'starts'>) => {
    const { id } = await who.ask(routineEndpoints.create, { body });
    const { changes } = await who.ask(routineEndpoints.preview, { body: { filter: body.filter, steps: body.steps } });
    await who.ask(routineEndpoints.run, { params: { id }, body: { changes } });
  };
  await keep(engineer, {
    name: 'Wake Card has a custodian',
    filter: 'kind:table under:wake_card custodian:none',
    steps: [{ do: 'act', action: { kind: 'custodian', id: idOf('Rafe Quillon') } }],
    starts: MONDAYS,
  });
  await keep(steward, {
    name: 'What retires is retired in time',
    filter: 'kind:table,view standing:retiring',
    steps: [
      {
        do: 'tell',
        to: 'owner',
        text: 'These are still marked as retiring. In 30 days nobody can rely on them any more.',
      },
      { do: 'wait', days: 30 },
      { do: 'only', filter: 'standing:retiring' },
      { do: 'act', action: { kind: 'notice', notice: 'stop', text: 'It has retired: read what replaces it.' } },
    ],
    starts: MONDAYS,
  });
  await steward.ask(routineEndpoints.create, {
    body: {
      name: 'New tables have somebody who knows them',
      filter: 'kind:table,view domain:Travel',
      steps: [
        { do: 'act', action: { kind: 'custodian', id: idOf('Rafe Quillon') } },
        { do: 'tell', to: 'keeper', text: 'A scan has brought these. They need a description and an owner.' },
      ],
      starts: { on: 'happening', what: ['new'] },
    },
  });
}
