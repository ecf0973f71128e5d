import { Command, CommanderError } from 'commander';
import { ZodError } from 'zod';
import { problemOf } from '../errors/problem.js';
import { completionScript } from './completion.js';
import { EXIT, Misuse } from './exit-codes.js';
import { Telling } from './telling.js';

const collect = (value: string, before: readonly string[]): readonly string[] => [...before, value];

const program = new Command('pampero')
  .description(
    'Survey clouds to terrain models, without a browser. The same steps as on the screen, with the same results.',
  )
  .showHelpAfterError('Run with --help to see what there is.')
  .helpCommand('help [command]', 'Show help for a command.')
  .helpOption('-h, --help', 'Show this help.')
  .addHelpText(
    'after',
    `
Examples:
  pampero run lidar-to-contours --in strip1.laz strip2.laz --checks checks.csv --crs 5347 --out reach-3
  pampero site square-to-contours --in county/*.laz --side 1000 --out county-models
  pampero info strip1.laz
  pampero export reach-3/job/reach-3-1a2b.pampero --list
  pampero check reach-3

Ends with 0 when done, 1 when something went wrong, 2 when asked for what cannot be, 3 when a run waits at a gate, 4 when a
check found something.`,
  );

program
  .command('run')
  .description('Run a run sheet on files and write what it makes into a folder.')
  .argument('<sheet>', 'a run sheet: its JSON file, or the id of one that came with Pampero')
  .requiredOption('--out <folder>', 'folder for the files; the job itself is kept in its "job" folder')
  .option('--in <files...>', 'the clouds: LAS, LAZ, COPC, E57, PLY, PTX or text')
  .option('--control <files...>', 'lists of control points')
  .option('--checks <files...>', 'lists of check points')
  .option(
    '--place <key=files>',
    'files for any other place of the sheet, with commas between; can be repeated',
    collect,
    [],
  )
  .option('--value <key=value>', 'a value for a place of the sheet; can be repeated', collect, [])
  .option('--crs <epsg>', 'EPSG code of the job; that of the first file when left out')
  .option('--name <name>', 'name of the job; that of the first file when left out')
  .option(
    '--accept <step=reason>',
    'go through a gate that does not hold, with the reason for the report; can be repeated',
    collect,
    [],
  )
  .option('--json', 'tell progress as lines of JSON')
  .action(async (sheet: string, options: object) => (await import('./run.js')).run(sheet, options as never));

program
  .command('site')
  .description(
    'Work on a large site: divide its files into squares with margins, run a sheet on each, check the edges.',
  )
  .argument('<sheet>', 'a run sheet: its JSON file, or the id of one that came with Pampero')
  .requiredOption('--in <files...>', 'the clouds, one or many: LAS, LAZ, COPC, E57, PLY, PTX or text')
  .requiredOption('--out <folder>', 'folder for the squares; several machines may share it')
  .option(
    '--jobs <folder>',
    'folder for the jobs of this machine, on a disk of its own; the "jobs" folder of --out when left out',
  )
  .requiredOption('--side <length>', 'side of a square, in the unit of the files; squares lie on its whole multiples')
  .option(
    '--margin <length>',
    'how far points of the neighbours are used; 60 m, and a quarter of the side at most, when left out',
  )
  .option('--control <files...>', 'lists of control points, for every square')
  .option('--checks <files...>', 'lists of check points, for every square')
  .option(
    '--place <key=files>',
    'files for any other place of the sheet, for every square; can be repeated',
    collect,
    [],
  )
  .option('--value <key=value>', 'a value for a place of the sheet; can be repeated', collect, [])
  .option('--crs <epsg>', 'EPSG code of the site; that of the files when left out')
  .option(
    '--at-once <number>',
    'squares that are worked on at the same time; as many as there are threads when left out',
  )
  .option(
    '--silent <seconds>',
    'how long another machine may say nothing before its squares are taken over; 60 when left out',
  )
  .option('--least <points>', 'leave out squares that fewer points belong to; 1 000 when left out')
  .option('--without <square>', 'leave out a square, by its name; can be repeated', collect, [])
  .option(
    '--accept <step=reason>',
    'go through a gate that does not hold, in every square; can be repeated',
    collect,
    [],
  )
  .option('--json', 'tell progress as lines of JSON')
  .action(async (sheet: string, options: object) => (await import('./site.js')).site(sheet, options as never));

program
  .command('info')
  .description('Say what a point cloud file holds, from its header and first points.')
  .argument('<files...>', 'clouds')
  .option('--json', 'as JSON')
  .action(async (files: string[], options: object) => (await import('./info.js')).info(files, options));

program
  .command('export')
  .description('Write products and clouds of a job into files.')
  .argument('<job>', 'job file (.pampero)')
  .option('--list', 'list what there is and in which forms it leaves')
  .option('--what <name-or-number>', 'a product or cloud by its name or number; all that suit when left out')
  .option('--form <form>', 'form: dxf, landxml, tif, laz, ...')
  .option('--for <who>', 'what suits whom: cad, gis or client')
  .option('--out <folder>', 'folder for the files', '.')
  .option('--json', 'tell progress as lines of JSON')
  .action(async (job: string, options: object) => (await import('./export.js')).exportFrom(job, options as never));

program
  .command('check')
  .description('Check a job file (damage, stale products, half-done steps) or a hand-over folder (SHA-256 sums).')
  .argument('<path>', 'job file or folder')
  .option('--json', 'as JSON')
  .action(async (path: string, options: object) => (await import('./check.js')).check(path, options));

program
  .command('serve')
  .description('Start the server and its pages.')
  .option('--data <folder>', 'folder of the jobs; PAMPERO_DATA otherwise')
  .option('--port <number>', 'port; PAMPERO_PORT otherwise')
  .option('--host <address>', 'address to listen on; PAMPERO_HOST otherwise')
  .action(async (options: object) => (await import('./serve.js')).serve(options));

program
  .command('work')
  .description('Help a server: take tasks off its queue and do them on this machine.')
  .requiredOption('--server <url>', 'address of the server, as http://host:4600')
  .option('--queue <url>', 'the queue, as redis://:password@host:6379; PAMPERO_QUEUE otherwise')
  .option('--token <token>', 'the server’s token; PAMPERO_TOKEN otherwise')
  .option('--threads <number>', 'threads to work in; PAMPERO_WORKERS otherwise')
  .action(async (options: object) => (await import('./work.js')).work(options as never));

program
  .command('completion')
  .description('Print a script that completes commands with the Tab key in bash: eval "$(pampero completion)"')
  .action(() => void process.stdout.write(completionScript(program)));

for (const command of [program, ...program.commands]) command.exitOverride();

const isJson = process.argv.includes('--json');
try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) {
    const isHelp = error.exitCode === 0 || error.code === 'commander.help';
    process.exitCode = isHelp ? (error.exitCode === 0 ? EXIT.done : EXIT.misused) : EXIT.misused;
  } else {
    const told = new Telling(isJson);
    if (error instanceof Misuse) {
      told.fault(error.message);
      process.exitCode = EXIT.misused;
    } else {
      const problem = problemOf(error);
      told.fault(problem.status >= 500 ? `${(error as Error).stack ?? String(error)}` : problem.detail, {
        code: problem.code,
      });
      process.exitCode =
        error instanceof ZodError || problem.status === 400 || problem.status === 404 ? EXIT.misused : EXIT.failed;
    }
  }
}
