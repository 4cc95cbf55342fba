import { Command, CommanderError } from 'commander';
import { CliProblem } from './problem.ts';

const SERVER =
  'its address, or the name by which it is kept (idrel servers); IDREL_SERVER, or the usual one, where it is left out';
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
  .action(async (...given: Parameters<typeof import('./classify.ts').classify>) =>
    (await import('./classify.ts')).classify(...given),
  );

program
  .command('lineage')
  .description(
    'Trace columns through SQL: SELECT, CREATE VIEW, CREATE TABLE AS, INSERT, UPDATE, DELETE, MERGE, as psql would read the scripts. A plain SELECT is named query.1, query.2 … Exit status 3: a statement was lost, and is named.',
  )
  .argument('<file.sql...>', 'scripts to read, in order')
  .option('--schema <file>', 'CREATE TABLE statements of the tables that the scripts name')
  .option('--dialect <name>', 'dialect of the scripts: postgresql or mariadb', 'postgresql')
  .option('--json', 'print edges as JSON')
  .action(async (...given: Parameters<typeof import('./lineage.ts').lineage>) =>
    (await import('./lineage.ts')).lineage(...given),
  );

program
  .command('impact')
  .description(
    'What a change of SQL scripts in a git repository does to all that is made of what they make, as Markdown. Signs in with --user and IDREL_PASSWORD, or with a key in IDREL_KEY. Exit status 4: the rule holds for something that the change takes away, renames or makes otherwise.',
  )
  .requiredOption('--changed <A..B>', 'the commits between which scripts are compared; A...B: since B left A')
  .option('--server <server>', SERVER)
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
  .option('--server <server>', SERVER)
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
    .option('--server <server>', SERVER)
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

asked(program.command('send'))
  .description(
    'Say many things by a file of lines (NDJSON): assets of a source that programs push to, what people say, edges, terms, tags, people. What is said again changes nothing. Exit status 4: a line was refused, and is named.',
  )
  .argument('<file>', 'lines of JSON, or - for standard input')
  .option('--preview', 'only say what would come of it')
  .option('--json', 'print what became of each line, as lines of JSON')
  .action(async (file, options) => (await import('./send.ts')).send(file, options));

program
  .command('operations')
  .description('List what can be asked of a server, all of it or what has these words.')
  .argument('[word...]', 'words of its name or of what it does')
  .option('--json', 'print it as JSON')
  .action(async (words, options) => (await import('./operation.ts')).operations(words, options));
asked(program.command('ask'))
  .description(
    'Ask any operation of a server, by its name; the answer is printed as JSON, or as the document that it is.',
  )
  .argument('<operation>', 'its name: idrel operations lists them')
  .argument('[name=value...]', 'what its address and its query need, as in id=… or filter="kind:table owner:none"')
  .option('--body <json>', 'what it is sent, as JSON, as @file.json, or @- for standard input')
  .option('--version <number>', 'of a change: the version that you saw')
  .action(async (id, given, options) => (await import('./operation.ts')).ask(id, given, options));

const push = program.command('push').description('Bring what is kept beside code into the catalog.');
push
  .command('docs')
  .description(
    'Take documentation that is kept in files (YAML, see --form) into the catalog, and say what of it is other. Where somebody decided by hand, theirs stays unless the file says otherwise, and is named. Signs in with --user and IDREL_PASSWORD, or with a key in IDREL_KEY. Exit status 4: something cannot be taken, and is named.',
  )
  .argument('[path...]', 'files and folders; this folder where none is named')
  .option('--server <server>', SERVER)
  .option('--user <email>', 'who asks, with IDREL_PASSWORD; or a key in IDREL_KEY')
  .option('--preview', 'only compare: nothing is written')
  .option('--changed <A..B>', 'only files that these commits touch')
  .option('--comments', 'also what SQL scripts say by COMMENT ON')
  .option('--source <name>', 'of the scripts: the source in the catalog at which they run')
  .option('--schema <name>', 'of the scripts: the schema of names that are written without one')
  .option('--form', 'print the JSON Schema of such files, for your editor')
  .option('--json', 'print it as JSON')
  .action(async (paths, options) => (await import('./docs.ts')).pushDocs(paths, options));

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

asked(program.command('headers'))
  .description(
    'Write at the top of SQL scripts and of files of documentation where in the catalog stands what they are about: a comment with its address. Written again it is brought up to date; all else of a file stays as it is. Exit status 4 with --check: a file would be changed.',
  )
  .argument('[path...]', 'files and folders; this folder where none is named')
  .option('--source <name>', 'of the scripts: the source in the catalog at which they run')
  .option('--schema <name>', 'of the scripts: the schema of names that are written without one')
  .option('--changed <A..B>', 'only files that these commits touch')
  .option('--remove', 'take headers away again; no server is asked')
  .option('--check', 'only say which files would be changed')
  .option('--json', 'print it as JSON')
  .action(async (paths, options) => (await import('./headers.ts')).headers(paths, options));

const servers = program
  .command('servers')
  .description('Servers that are kept on this machine by a name, with or without a key; the usual one has a star.')
  .option('--json', 'print them as JSON')
  .action(async (options) => (await import('./servers.ts')).list(options));
servers
  .command('add')
  .description('Keep a server; the first is the usual one.')
  .argument('<name>', 'what you call it')
  .argument('<address>', 'its address, beginning with https://')
  .option('--key', 'with the key of a program, which is read from standard input')
  .action(async (name, address, options) => (await import('./servers.ts')).add(name, address, options));
servers
  .command('use')
  .description('Make a server the usual one.')
  .argument('<name>', 'what you call it')
  .action(async (name) => (await import('./servers.ts')).use(name));
servers
  .command('remove')
  .description('Forget a server, and its key.')
  .argument('<name>', 'what you call it')
  .action(async (name) => (await import('./servers.ts')).remove(name));
program
  .command('completion')
  .description('Print a script by which your shell completes commands, options and operations.')
  .argument('<shell>', 'bash, zsh or fish')
  .action(async (shell) => (await import('./completion.ts')).completion(program, shell));

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) process.exitCode = error.exitCode;
  else if (error instanceof CliProblem) {
    process.stderr.write(`${error.message}\n  ${error.mend}\n`);
    process.exitCode = 2;
  } else throw error;
}
