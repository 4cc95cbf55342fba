import { type Arrow, type Box, layOut, type Measures } from '@idrel/core/lineage/layout';

export interface ToLayOut {
  readonly number: number;
  readonly boxes: readonly Box[];
  readonly arrows: readonly Arrow[];
  readonly measures: Measures;
}

self.onmessage = ({ data: { number, boxes, arrows, measures } }: MessageEvent<ToLayOut>) => {
  self.postMessage({ number, laid: layOut(boxes, arrows, measures) });
};
