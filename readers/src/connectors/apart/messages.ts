import type { Measure } from '@idrel/core/scanning';
import type { ConnectorInput, Known, RowsWanted, Sampleable, SampleMethod } from '../types.ts';

/** Kinds of sources whose bytes are read in a process of their own. */
export type ApartKind = 'dcat' | 'folder' | 'objects' | 'scripts' | 'sqlite';

export type Question =
  | { readonly what: 'test' | 'open'; readonly kind: ApartKind; readonly input: ConnectorInput }
  | { readonly what: 'outline' | 'flows' | 'queries' | 'close' }
  | { readonly what: 'structure'; readonly known: Known | undefined }
  | {
      readonly what: 'sample';
      readonly table: Sampleable;
      readonly rows: number;
      readonly method: SampleMethod | undefined;
    }
  | {
      readonly what: 'profile';
      readonly table: Sampleable;
      readonly measures: readonly Measure[];
      readonly rows: number;
    }
  | { readonly what: 'rows'; readonly wanted: RowsWanted };
export type Asked = Question & { readonly id: number };

export interface ToldError {
  readonly name: string;
  readonly message: string;
  readonly code?: string;
  readonly mend?: string;
}

export type FromChild =
  | { readonly id: number; readonly value: unknown }
  | { readonly id: number; readonly error: ToldError }
  | { readonly progress: readonly [objects: number, columns: number] }
  /** What it is about to look into. */
  | { readonly at: string };
