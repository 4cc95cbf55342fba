/** One line for the person who started the command. */
export const say = (text) => process.stdout.write(`${text}\n`);

/** Ends the command with a reason and the way out of it. */
export function stopWith(problem, mend) {
  process.stderr.write(`\n${problem}\n${mend ? `  ${mend}\n` : ''}`);
  process.exit(1);
}
