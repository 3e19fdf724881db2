import { homedir } from 'node:os';
import { join, resolve } from 'node:path';
import { Option, type Command } from 'commander';
import type { Service } from '@kleidon/service';
import { EXIT, Stop } from '../exit.ts';
import { collect, wholeNumber } from '../options.ts';

interface ServeOptions {
  readonly port: number;
  readonly host: string;
  readonly data: string;
  readonly maxBody: number;
  readonly allowHost?: string[];
  readonly logLevel: string;
  readonly settings?: string;
}

const MIB = 1024 * 1024;

/** `kleidon serve`: the service, until it is told to stop. */
export function addServe(program: Command): void {
  program
    .command('serve')
    .description('run the service: the HTTP API and the console')
    .addOption(
      new Option('--port <number>', 'port to listen on; 0 takes any free one')
        .default(4780)
        .argParser(wholeNumber(0, 65535)),
    )
    .addOption(new Option('--host <address>', 'address to listen on').default('127.0.0.1'))
    .addOption(
      new Option('--data <folder>', 'folder of the database')
        .env('KLEIDON_DATA')
        .default(defaultFolder()),
    )
    .addOption(
      new Option('--allow-host <name>', 'answer to this host name too; may be repeated').argParser(
        collect,
      ),
    )
    .addOption(
      new Option('--max-body <MiB>', 'largest site file that is taken')
        .default(16)
        .argParser(wholeNumber(1, 512)),
    )
    .addOption(
      new Option('--log-level <level>', 'what goes to the log')
        .default('info')
        .choices(['trace', 'debug', 'info', 'warn', 'error', 'silent']),
    )
    .addOption(
      new Option(
        '--settings <file>',
        'settings in YAML: the gateways to run; see docs/gateway.md',
      ).env('KLEIDON_SETTINGS'),
    )
    .addHelpText(
      'after',
      `
The address is printed once the service is ready; the log, a JSON object a line, goes to standard error.
It stops cleanly on Ctrl-C and SIGTERM: requests under way are finished first.

Examples:
  kleidon serve
  kleidon serve --settings kleidon.yaml
  kleidon serve --port 8080 --data /var/lib/kleidon 2>> kleidon.log`,
    )
    .action(async (options: ServeOptions) => {
      const service = await start(options);
      const gateways = service.gateways.map(
        ({ site, address, origin }) =>
          `The gateway of ${site} is at ${address}, before ${origin}\n`,
      );
      const stop = (): void => void service.close();
      process.once('SIGINT', stop);
      process.once('SIGTERM', stop);
      // Whoever reads it may stop the service at once.
      process.stdout.write(`${gateways.join('')}Kleidon is at ${service.address}\n`);
    });
}

function defaultFolder(): string {
  return join(process.env['XDG_DATA_HOME'] ?? join(homedir(), '.local', 'share'), 'kleidon');
}

async function start({
  port,
  host,
  data,
  maxBody,
  allowHost,
  logLevel,
  settings,
}: ServeOptions): Promise<Service> {
  // Loaded only here: no other command needs a web server and a database.
  const { SettingsProblem, startService } = await import('@kleidon/service');
  try {
    return await startService({
      port,
      host,
      data: resolve(data),
      maxBody: maxBody * MIB,
      allowedHosts: allowHost ?? [],
      logLevel,
      settings: settings === undefined ? null : resolve(settings),
    });
  } catch (error) {
    if (error instanceof SettingsProblem) throw new Stop(EXIT.wrongUse, error.message);
    const {
      code,
      syscall,
      message,
      address,
      port: taken,
    } = error as NodeJS.ErrnoException & {
      address?: string;
      port?: number;
    };
    if (code === 'EADDRINUSE' && taken !== port)
      throw new Stop(
        EXIT.wrongUse,
        `Port ${taken} of a gateway is taken. Choose another in the settings.`,
      );
    if (code === 'EADDRINUSE') {
      throw new Stop(
        EXIT.wrongUse,
        `Port ${port} of ${host} is taken. Choose another with --port NUMBER, or any free one with --port 0.`,
      );
    }
    if (syscall === 'listen') {
      throw new Stop(
        EXIT.wrongUse,
        `Port ${taken ?? port} of ${address ?? host} can't be listened on: ${message}. Choose another host or port: --host and --port for the service, the settings for a gateway.`,
      );
    }
    throw new Stop(
      EXIT.wrongUse,
      `The service can't start with the data folder ${data}: ${message}. Choose another with --data FOLDER.`,
    );
  }
}
