/** Who acts: a person who is signed in, a group, or a service (a schedule, a scan, an account of a program) that acts by itself. */
export interface Principal {
  readonly kind: 'person' | 'group' | 'service';
  /** Of a person or group: its id. */
  readonly id: string | null;
  readonly name: string;
  /** Of what a routine does for a person: its run. What they decide by hand has none. */
  readonly run?: string;
  /** Of what a program does for a person: the key that it has of theirs. */
  readonly key?: { readonly name: string } | null;
}

/** Idrel acting by itself, as one of its services. */
export const service = (name: string): Principal => ({ kind: 'service', id: null, name });
