import { Button, Menu, useMantineColorScheme } from '@mantine/core';
import { useOutletContext } from 'react-router';
import { useAddress } from '../../app/address.ts';
import { useSessionQuery } from '../../app/api.ts';
import { Beside, Choice, Note } from '../../marks/layout.tsx';
import { Coming, Empty, Trouble } from '../../marks/states.tsx';
import { ClientKeys, OpenSessions, OwnPassword } from '../../people/index.ts';
import { lastDay } from '../Conditions.tsx';
import { PartnerPeople } from '../PartnerPeople.tsx';
import { useSharedQuery } from '../sharesApi.ts';
import { SharedPane } from './SharedPane.tsx';

/** All that is there for people of a partner organisation: what is shared with them, who of theirs reads it, and how their programs do. */
export function Component() {
  const session = useSessionQuery().data;
  // Signs out, as everywhere.
  const leave = useOutletContext<(() => void) | undefined>();
  const [params, put] = useAddress();
  const { toggleColorScheme } = useMantineColorScheme();
  const isOfPartner = session?.partner != null;
  const { data, error, refetch } = useSharedQuery(undefined, { skip: !isOfPartner });
  if (!session?.person || !session.partner)
    return (
      <Empty title="Nothing is shared with you">
        <p>Here people of partner organisations read what is shared with them.</p>
      </Empty>
    );
  const { person, partner, ways } = session;
  const show = params.get('show');
  const shares = data?.shares ?? [];
  const open = shares.filter(({ state }) => state === 'offered' || state === 'accepted');
  const over = shares.filter(({ state }) => state !== 'offered' && state !== 'accepted');
  const shown = show ? undefined : (shares.find(({ id }) => id === params.get('share')) ?? open[0] ?? over[0]);
  return (
    <div className="shell partner">
      <header className="topline">
        <strong className="name">
          <img src="/mark.svg" alt="" width={20} height={20} /> Idrel
        </strong>
        <span className="grow quiet">Shared with {partner.name}</span>
        <Menu position="bottom-end" withinPortal>
          <Menu.Target>
            <Button variant="default">{person.name}</Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Label>{partner.leads ? `speaks for ${partner.name}` : partner.name}</Menu.Label>
            <Menu.Item onClick={() => toggleColorScheme()}>Light or dark</Menu.Item>
            <Menu.Item onClick={leave}>Sign out</Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </header>
      <main className="main" id="main" tabIndex={-1}>
        <div className="page">
          <h1>Shared with you</h1>
          {error ? (
            <Trouble error={error} what="What is shared with you cannot be shown" again={() => void refetch()} />
          ) : !data ? (
            <Coming lines={4} />
          ) : (
            <Beside first="minmax(220px, 290px)">
              <nav aria-label="What is there">
                <ul className="tree flat" aria-label="Shares">
                  {[...open, ...over].map((share) => (
                    <Choice
                      key={share.id}
                      chosen={share.id === shown?.id}
                      choose={() => put({ share: share.id, show: null })}
                    >
                      <span className="grow cut">
                        {share.localName ?? share.name}
                        <Note>
                          {share.state === 'offered'
                            ? 'offered: to be accepted'
                            : share.state === 'accepted'
                              ? share.until
                                ? `until ${lastDay(share.until)}`
                                : share.name
                              : share.state}
                        </Note>
                      </span>
                    </Choice>
                  ))}
                </ul>
                <ul className="tree flat" aria-label="Your organisation">
                  <Choice chosen={show === 'people'} choose={() => put({ show: 'people', share: null })}>
                    Your people
                  </Choice>
                  <Choice chosen={show === 'programs'} choose={() => put({ show: 'programs', share: null })}>
                    Programs and password
                  </Choice>
                </ul>
              </nav>
              {show === 'people' ? (
                <section aria-label="Your people" className="stack">
                  <h2>Your people</h2>
                  <p>
                    Each of them reads whatever your organisation has accepted.{' '}
                    {partner.leads ? 'Whom you end is cut off at once.' : 'Who speaks for it says who they are.'}
                  </p>
                  <PartnerPeople
                    partner={partner.id}
                    name={partner.name}
                    people={data.people}
                    may={partner.leads}
                    self={person.id}
                  />
                </section>
              ) : show === 'programs' ? (
                <div className="stack apart">
                  <section>
                    <h2>Keys for programs</h2>
                    <ClientKeys database="the name under which a share was accepted" />
                  </section>
                  <section>
                    <h2>Where you are signed in</h2>
                    <OpenSessions />
                  </section>
                  {ways.password ? (
                    <section>
                      <h2>Your password</h2>
                      <OwnPassword person={person.id} mail={ways.mail} />
                    </section>
                  ) : null}
                </div>
              ) : shown ? (
                <SharedPane key={shown.id} share={shown} leads={partner.leads} />
              ) : (
                <Empty title="Nothing is shared with you yet">
                  <p>
                    What is offered to {partner.name} stands here: who speaks for it accepts it, and all of you read it.
                  </p>
                </Empty>
              )}
            </Beside>
          )}
        </div>
      </main>
    </div>
  );
}
