import { SegmentedControl, useMantineColorScheme } from '@mantine/core';
import { Link } from 'react-router';
import { Away } from '../access/index.ts';
import { useSessionQuery } from '../app/api.ts';
import { useMayAnywhere } from '../forms/Frame.tsx';
import { History, useJournalQuery } from '../journal/index.ts';
import { Listing } from '../marks/Listing.tsx';
import { ApiKeys, ClientKeys, OpenSessions, OwnPassword } from '../people/index.ts';
import { useCrumbs } from '../shell/crumbs.tsx';

/** What a person can set for themselves, what they may do, and the journal. */
export function Component() {
  useCrumbs({ text: 'Settings' });
  const session = useSessionQuery();
  const { colorScheme, setColorScheme } = useMantineColorScheme();
  const journal = useJournalQuery(undefined);
  const mayTell = useMayAnywhere('administrator');
  return (
    <div className="page stack apart">
      <h1>Settings</h1>
      <section>
        <h2>Look</h2>
        <SegmentedControl
          mt={6}
          aria-label="Light or dark"
          value={colorScheme}
          onChange={(value) => setColorScheme(value as 'light')}
          data={[
            { value: 'auto', label: 'As the system' },
            { value: 'light', label: 'Light' },
            { value: 'dark', label: 'Dark' },
          ]}
        />
      </section>
      <section>
        <h2>Your roles</h2>
        {session.data?.grants.length === 0 ? <p className="quiet">None yet: administrators give them.</p> : null}
        <Listing maw={460}>
          {(session.data?.grants ?? []).map((grant) => (
            <tr key={`${grant.role}-${grant.domain}`}>
              <td>{grant.role}</td>
              <td className="quiet">{grant.domain ? `in ${grant.domain} and below` : 'everywhere'}</td>
            </tr>
          ))}
        </Listing>
      </section>
      <section>
        <h2>Where you are signed in</h2>
        <OpenSessions />
      </section>
      <section>
        <h2>Keys for programs</h2>
        <h3>That read through the gateway</h3>
        <ClientKeys />
        <h3 className="under">That call the API</h3>
        <ApiKeys />
      </section>
      {session.data?.ways.password && session.data.person ? (
        <section>
          <h2>Your password</h2>
          <OwnPassword person={session.data.person.id} mail={session.data.ways.mail} />
        </section>
      ) : null}
      {session.data?.person ? (
        <section>
          <h2>While you are away</h2>
          <Away person={session.data.person.id} />
        </section>
      ) : null}
      <section>
        <h2>Priority</h2>
        <p>
          What matters most, by rules, and upstream of what they find:{' '}
          <Link to="/settings/priority">rules of priority</Link>.
        </p>
      </section>
      <section>
        <h2>Checklists</h2>
        <p>
          What must be so before an asset is trusted: <Link to="/settings/checklists">checklists by kind</Link>.
        </p>
      </section>
      <section>
        <h2>Guides</h2>
        <p>
          What a guide begins with: <Link to="/settings/guides">templates by kind</Link>.
        </p>
      </section>
      <section>
        <h2>People</h2>
        <p>
          Who they are, what they may do, what they hold, and what becomes of it when they leave:{' '}
          <Link to="/settings/people">people and groups</Link>.
        </p>
      </section>
      <section>
        <h2>Domains</h2>
        <p>
          What each is for, who answers for it, where it lies, what its addresses show:{' '}
          <Link to="/settings/domains">domains</Link>.
        </p>
      </section>
      <section>
        <h2>Programs</h2>
        <p>
          Everything in the interface can be done by programs: <Link to="/settings/api">API reference</Link>,{' '}
          <a href="/api/v1/openapi.json">OpenAPI description</a>.
        </p>
        {mayTell ? (
          <p>
            Programs that are told what changes: <Link to="/settings/webhooks">webhooks</Link>.
          </p>
        ) : null}
      </section>
      <section>
        <h2>Journal</h2>
        <History entries={journal.data ?? []} subject />
      </section>
    </div>
  );
}
