import type { PersonAnswer } from '@idrel/contract/people';
import { Button, Group } from '@mantine/core';
import { useSessionQuery } from '../app/api.ts';
import { sayDone, sayProblem } from '../app/say.ts';
import { useInviteMutation } from './api.ts';

/** How somebody signs in, and the way to have them set a password. */
export function HowTheySignIn({ person }: { person: PersonAnswer }) {
  const ways = useSessionQuery().data?.ways;
  const [invite, { isLoading }] = useInviteMutation();
  if (!person.signsIn || !ways) return null;
  const { password, outside } = person.signsIn;
  const by = [password && ways.password ? 'by password' : '', outside && ways.outside ? `with ${ways.outside}` : ''];
  const said = by.filter(Boolean).join(' and ');
  return (
    <Group gap={12} role="group" aria-label="How they sign in">
      <span className="quiet">
        {said
          ? `Signs in ${said}.`
          : ways.outside
            ? `Never signed in: will, with ${ways.outside}, if it knows this address.`
            : 'Cannot sign in yet.'}
      </span>
      {ways.mail ? (
        <Button
          variant="default"
          size="compact-sm"
          loading={isLoading}
          onClick={() =>
            void invite(person.id)
              .unwrap()
              .then(
                () => sayDone(`A link is on its way to ${person.email}; it holds for three days.`),
                (error: unknown) => sayProblem(error, 'No link was sent'),
              )
          }
        >
          {password ? 'Send a link to set a new password' : 'Send a link to set a password'}
        </Button>
      ) : ways.password ? (
        <span className="quiet small">No mail is set up, so no link can be sent.</span>
      ) : null}
    </Group>
  );
}
