import { ApiClient } from '@idrel/contract/http/client';
import { peopleEndpoints } from '@idrel/contract/people';
import { type RunAnswer, scanEndpoints } from '@idrel/contract/scanning';

/** A caller of Idrel's API who is one of the people of the demo. */
export class Client extends ApiClient {
  /** Signs in as one of the people of the demo. */
  async signInAs(name: string): Promise<void> {
    const { demoPeople } = await this.ask(peopleEndpoints.session);
    const person = demoPeople.find((entry) => entry.name === name);
    if (!person) throw new Error(`${name} is not one of the people of the demo.`);
    const opened = await this.ask(peopleEndpoints.signIn, { body: { demoPersonId: person.id } });
    this.token = opened.csrf ?? '';
  }

  /** Waits for a run to end; throws when it ends badly. */
  async runEnds(runId: string, patience = 180_000): Promise<RunAnswer> {
    const until = Date.now() + patience;
    for (;;) {
      const run = await this.ask(scanEndpoints.get, { params: { id: runId } });
      if (['done', 'partly done'].includes(run.state)) return run;
      if (['failed', 'cancelled'].includes(run.state))
        throw new Error(`The run ended as ${run.state}: ${run.problem?.what ?? ''}`);
      if (Date.now() > until) throw new Error('The run does not end.');
      await new Promise((resolve) => setTimeout(resolve, 200));
    }
  }
}
