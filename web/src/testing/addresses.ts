import { vi } from 'vitest';

/** A page knows where it is; in tests an address has to be whole. Until the stubs are taken away. */
export function wholeAddresses(): void {
  vi.stubGlobal(
    'Request',
    class extends Request {
      constructor(input: string, init?: RequestInit) {
        super(new URL(input, 'http://idrel.example.org'), init);
      }
    },
  );
}
