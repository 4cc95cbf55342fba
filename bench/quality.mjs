import { recognise } from '../core/dist/recognition/index.js';
import { makeCorpus } from './corpus/make.mjs';

const setting = { today: new Date('2026-11-23T00:00:00Z'), countries: ['GB', 'NO', 'DK', 'SE', 'DE', 'NL', 'US'] };

/** Counts what was found, missed and found wrongly, class by class. */
function judge(columns, nameOf) {
  const classes = new Map();
  const of = (key) => classes.get(key) ?? classes.set(key, { right: 0, wrong: 0, missed: 0 }).get(key);
  const mistakes = [];
  for (const column of columns) {
    const name = nameOf(column);
    if (name === null) continue;
    const found = recognise({ name, type: column.type, values: column.values }, setting).map(
      (finding) => finding.classKey,
    );
    for (const key of found) {
      if (column.truth.includes(key)) of(key).right += 1;
      else if (!column.allowed.includes(key)) {
        of(key).wrong += 1;
        mistakes.push({ what: 'wrong', key, column, name });
      }
    }
    for (const key of column.truth)
      if (!found.includes(key) && !(column.same ?? []).some((other) => found.includes(other))) {
        of(key).missed += 1;
        mistakes.push({ what: 'missed', key, column, name, found });
      }
  }
  const total = { right: 0, wrong: 0, missed: 0 };
  for (const counts of classes.values()) for (const kind of Object.keys(total)) total[kind] += counts[kind];
  return { classes, total, mistakes };
}

const precision = ({ right, wrong }) => (right + wrong === 0 ? 1 : right / (right + wrong));
const recall = ({ right, missed }) => (right + missed === 0 ? 1 : right / (right + missed));

/** Judges parts of the corpus with names and without. @returns figures by part and way of naming */
export function judgeAll(parts = ['train', 'test', 'world', 'systems']) {
  const told = [];
  for (const part of parts) {
    const columns = makeCorpus(part);
    for (const [way, nameOf] of [
      ['with names', (column) => column.name],
      ['without names', (column) => column.blank],
    ])
      told.push({
        part,
        way,
        columns: columns.filter((column) => nameOf(column) !== null).length,
        ...judge(columns, nameOf),
      });
  }
  return told;
}

export { precision, recall };
