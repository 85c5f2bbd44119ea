/** A server of OPC UA to test against: node-opcua's own server half, with a few variables of a made-up weigher. */
import { mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import {
  DataType,
  nodesets,
  OPCUACertificateManager,
  OPCUAServer,
  setDebugLogger,
  setErrorLogger,
  setWarningLogger,
  StatusCodes,
  Variant,
  VariantArrayType,
  type AddressSpace,
  type UAVariable,
} from 'node-opcua';

setDebugLogger(() => undefined);
setWarningLogger(() => undefined);
setErrorLogger(() => undefined);

export const WEIGH_URI = 'urn:quern-hollow:weigh';
export const BAGGER_URI = 'urn:quern-hollow:bagger';
const BAGGER_NODES = fileURLToPath(new URL('../data/bagger.NodeSet2.xml', import.meta.url));
const OTHER_URI = 'urn:quern-hollow:other';

export interface UaServerOptions {
  readonly port: number;
  /** Namespaces that come before that of the weigher: its number moves. */
  readonly before?: readonly string[];
  /** Where its certificate lies; another folder, another certificate. */
  readonly pki?: string;
  readonly user?: { readonly name: string; readonly password: string };
  readonly count?: number;
  /** It takes nobody but users with a certificate: any, or none of those that it does not know. */
  readonly userCertificates?: 'any' | 'known';
  /** What it takes at once. */
  readonly limits?: {
    readonly maxNodesPerRead: number;
    readonly maxNodesPerBrowse: number;
    readonly maxMonitoredItemsPerCall: number;
    readonly maxNodesPerWrite?: number;
  };
}

export class UaServer {
  readonly #server: OPCUAServer;
  readonly variables = new Map<string, UAVariable>();
  readonly pki: string;

  private constructor(server: OPCUAServer, pki: string) {
    this.#server = server;
    this.pki = pki;
  }

  static async start({ port, before = [], pki = newPki(), user, count = 0, limits, userCertificates }: UaServerOptions): Promise<UaServer> {
    const manager = new OPCUACertificateManager({ rootFolder: pki, automaticallyAcceptUnknownCertificate: true });
    await manager.initialize();
    const server = new OPCUAServer({
      port,
      host: '127.0.0.1',
      hostname: '127.0.0.1',
      serverCertificateManager: manager,
      nodeset_filename: [nodesets.standard, BAGGER_NODES],
      ...(limits ? { serverCapabilities: { operationLimits: limits } } : {}),
      allowAnonymous: user === undefined && userCertificates === undefined,
      ...(userCertificates ? { userCertificateManager: await userManager(userCertificates === 'any') } : {}),
      userManager: { isValidUser: (name: string, password: string) => name === user?.name && password === user.password },
      buildInfo: { productName: 'Weigher', manufacturerName: 'Quern Hollow', softwareVersion: '3.1' },
    });
    await server.initialize();
    const space = server.engine.addressSpace;
    if (!space) throw new Error('No address space.');
    for (const uri of before) space.registerNamespace(uri);
    const own = space.registerNamespace(WEIGH_URI);
    const made = new UaServer(server, pki);
    const hopper = own.addObject({ organizedBy: space.rootFolder.objects, browseName: 'Hopper', nodeId: 's=Hopper' });
    const add = (name: string, dataType: DataType, value: unknown, more: Record<string, unknown> = {}): void => {
      const variable = own.addVariable({
        componentOf: hopper,
        browseName: name,
        nodeId: `s=${name}`,
        dataType: DataType[dataType],
        description: `${name} of the hopper`,
        minimumSamplingInterval: 50,
        value: new Variant({ dataType, arrayType: VariantArrayType.Scalar, value, ...more }),
        ...(more.arrayType === VariantArrayType.Array ? { valueRank: 1, arrayDimensions: [(value as ArrayLike<unknown>).length] } : {}),
      });
      made.variables.set(name, variable);
    };
    add('Running', DataType.Boolean, true);
    add('Count', DataType.Int16, -7);
    add('Batches', DataType.UInt32, 4_000_000_000);
    add('Total', DataType.UInt64, [0x1, 0x2]);
    add('Grams', DataType.Int64, [0xffff_ffff, 0xffff_ff9c]);
    add('Level', DataType.Float, 61.5);
    add('Recipe', DataType.String, 'Oats 12');
    add('Begun', DataType.DateTime, new Date(Date.UTC(2026, 2, 1, 6, 30)));
    add('Gates', DataType.Double, Float64Array.of(1.5, 2.5, 3.5), { arrayType: VariantArrayType.Array });
    const weight = own.addAnalogDataItem({
      componentOf: hopper,
      browseName: 'Weight',
      nodeId: 's=Weight',
      dataType: 'Double',
      definition: 'Load cells',
      valuePrecision: 0.1,
      engineeringUnitsRange: { low: 0, high: 500 },
      instrumentRange: { low: 0, high: 600 },
      engineeringUnits: {
        namespaceUri: 'http://www.opcfoundation.org/UA/units/un/cefact',
        unitId: 4933453,
        displayName: { text: 'kg' },
        description: { text: 'kilogram' },
      },
      value: new Variant({ dataType: DataType.Double, value: 120.25 }),
    });
    made.variables.set('Weight', weight);
    const locked = own.addVariable({
      componentOf: hopper,
      browseName: 'Serial',
      nodeId: 's=Serial',
      dataType: 'UInt32',
      accessLevel: 'CurrentRead',
      value: new Variant({ dataType: DataType.UInt32, value: 407133 }),
    });
    made.variables.set('Serial', locked);
    addBagger(space, made);
    for (let i = 0; i < count; i++) add(`n${i}`, DataType.Double, i);
    await server.start();
    return made;
  }

  set(name: string, value: unknown, dataType = DataType.Double, status = StatusCodes.Good): void {
    this.variables.get(name)?.setValueFromSource(new Variant({ dataType, value }), status);
  }

  setArray(name: string, value: Float64Array): void {
    this.variables.get(name)?.setValueFromSource(new Variant({ dataType: DataType.Double, arrayType: VariantArrayType.Array, value }));
  }

  value(name: string): unknown {
    return this.variables.get(name)?.readValue().value.value;
  }

  async stop(): Promise<void> {
    await this.#server.shutdown(0);
  }
}

async function userManager(automaticallyAcceptUnknownCertificate: boolean): Promise<OPCUACertificateManager> {
  const manager = new OPCUACertificateManager({ rootFolder: newPki(), automaticallyAcceptUnknownCertificate });
  await manager.initialize();
  return manager;
}

/** A structure with an array and another structure inside, from a file of its own. */
function addBagger(space: AddressSpace, made: UaServer): void {
  const { index } = space.getNamespace(BAGGER_URI);
  const variable = space.findNode(`ns=${index};s=Bagger`) as UAVariable;
  const type = space.findDataType('BaggerType', index);
  if (!type) throw new Error('No structure.');
  const value = space.constructExtensionObject(type, { weight: 12.5, bags: 7, gaps: [1, 2.5, 3], jaw: { temp: 150, closed: true } });
  variable.setValueFromSource({ dataType: DataType.ExtensionObject, value });
  made.variables.set('Bagger', variable);
}

export function newPki(): string {
  return mkdtempSync(join(process.env.MILL_LATCH_SCRATCH ?? tmpdir(), 'ua-pki-'));
}

export const RENUMBERED: readonly string[] = [OTHER_URI, 'urn:quern-hollow:third'];
