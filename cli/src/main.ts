import { Command, CommanderError } from 'commander';
import { classify } from './classify.ts';
import { lineage } from './lineage.ts';
import { CliProblem } from './problem.ts';

const program = new Command('idrel')
  .description('Idrel on the command line.')
  .exitOverride()
  .showHelpAfterError('(idrel --help lists the commands)');

program
  .command('classify')
  .description(
    'Recognise what the columns of files hold: CSV, TSV, NDJSON, JSON, Parquet, Avro, Arrow and XLSX. Nothing leaves this machine.',
  )
  .argument('<file...>', 'files to read')
  .option('--json', 'print findings as JSON')
  .option('--rows <number>', 'how many rows of each file are sampled', '10000')
  .option(
    '--country <codes>',
    'countries whose national phone formats count, for example GB,NO',
    'GB,NO,DK,SE,DE,NL,US',
  )
  .action(classify);

program
  .command('lineage')
  .description(
    'Trace columns through SQL: SELECT, CREATE VIEW, CREATE TABLE AS, INSERT, UPDATE, DELETE, MERGE, as psql would read the scripts. A plain SELECT is named query.1, query.2 … Exit status 3: a statement was lost, and is named.',
  )
  .argument('<file.sql...>', 'scripts to read, in order')
  .option('--schema <file>', 'CREATE TABLE statements of the tables that the scripts name')
  .option('--dialect <name>', 'dialect of the scripts: postgresql or mariadb', 'postgresql')
  .option('--json', 'print edges as JSON')
  .action(lineage);

program
  .command('impact')
  .description(
    'What a change of SQL scripts in a git repository does to all that is made of what they make, as Markdown. Signs in with --user and IDREL_PASSWORD, or with a key in IDREL_KEY. Exit status 4: the rule holds for something that the change takes away, renames or makes otherwise.',
  )
  .requiredOption('--changed <A..B>', 'the commits between which scripts are compared; A...B: since B left A')
  .option('--server <url>', 'address of the server')
  .option('--user <email>', 'who asks, where no key stands in IDREL_KEY; the answer is what they may see')
  .option('--catalog <file>', 'what idrel export wrote: in place of a server, where none can be reached')
  .requiredOption('--source <name>', 'the source of the catalog at which the scripts run')
  .option('--repository <folder>', 'the git repository', '.')
  .option('--dialect <name>', 'dialect of the scripts: postgresql or mariadb', 'postgresql')
  .option('--rule <filter>', 'what must not be concerned, for example: kind:report standing:trusted')
  .option(
    '--post <url>',
    'comments of a merge request: its own one is written, or brought up to date (IDREL_CODE_TOKEN)',
  )
  .option('--out <file>', 'write the Markdown to a file, too')
  .option('--json', 'print it as JSON')
  .action(async (options) => (await import('./impact.ts')).impact(options));

program
  .command('export')
  .description(
    'What is made of a source, as a file: idrel impact --catalog asks it where no server can be reached. Signs in with --user and IDREL_PASSWORD, or with a key in IDREL_KEY; the file holds what they may see.',
  )
  .requiredOption('--server <url>', 'address of the server')
  .option('--user <email>', 'who asks, with IDREL_PASSWORD; or a key in IDREL_KEY')
  .requiredOption('--source <name>', 'the source of the catalog')
  .requiredOption('--out <file>', 'where it is written')
  .action(async (options) => (await import('./export.ts')).exportCatalog(options));

const policies = program
  .command('policies')
  .description(
    'Policies as a file that is kept in a repository: YAML, or ODRL as JSON-LD. Signs in with --user and IDREL_PASSWORD, or with a key in IDREL_KEY; the file holds what they may change.',
  );
const asked = (command: Command) =>
  command
    .requiredOption('--server <url>', 'address of the server')
    .option('--user <email>', 'who asks, with IDREL_PASSWORD; or a key in IDREL_KEY');
asked(policies.command('export'))
  .description('Write the policies that you may change to a file, or to standard output.')
  .option('--format <name>', 'yaml or odrl', 'yaml')
  .option('--out <file>', 'where it is written')
  .action(async (options) => (await import('./policies.ts')).exportPolicies(options));
for (const [name, what] of [
  ['plan', 'Say what a file would change, and who would gain or lose what; nothing is written.'],
  ['apply', 'Change policies as a file says, all of it or nothing.'],
] as const)
  asked(policies.command(name))
    .description(`${what} Exit status 4: something in the file cannot be taken, and is named.`)
    .argument('<file>', 'a file of policies: .yaml, .yml, .json or .jsonld')
    .option('--remove-absent', 'remove policies of yours that the file does not have')
    .option('--json', 'print it as JSON')
    .option('--seen <text>', 'what a plan said: refused where something else would come of the file by now')
    .action(async (file, options) => (await import('./policies.ts'))[name](file, options));

program
  .command('agent')
  .description(
    'Read sources from this machine for a server of Idrel elsewhere. Calls out only; runs until it is stopped.',
  )
  .requiredOption('--server <url>', 'address of the server')
  .option('--key <key>', 'key of the agent (or IDREL_AGENT_KEY)')
  .option(
    '--secrets <file>',
    'secrets that stay on this machine: JSON by the names of sources, readable by its owner alone',
  )
  .action(async (options) => (await import('./agent.ts')).agent(options)); // what reads databases is loaded only for it

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) process.exitCode = error.exitCode;
  else if (error instanceof CliProblem) {
    process.stderr.write(`${error.message}\n  ${error.mend}\n`);
    process.exitCode = 2;
  } else throw error;
}
