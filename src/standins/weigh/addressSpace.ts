/** What the weigher shows of itself: laid out by hand, each variable with its own OPC UA type. */
import { AccessLevelFlag, DataType, StatusCodes, Variant, VariantArrayType, type AddressSpace, type Namespace, type StatusCode } from 'node-opcua';
import type { Told } from '../controlChannel.ts';
import { STATES, type WeigherState } from './process.ts';

export const WEIGH_URI = 'urn:quern-hollow:weigh';

/** @param before namespaces that come before the weigher's own: its number moves with them */
export function buildAddressSpace(space: AddressSpace, w: WeigherState, before: readonly string[]): void {
  for (const uri of before) space.registerNamespace(uri);
  const own = space.registerNamespace(WEIGH_URI);
  const hopper = own.addObject({ organizedBy: space.rootFolder.objects, browseName: 'Hopper', nodeId: 's=Hopper' });
  const gates = own.addObject({ componentOf: hopper, browseName: 'Gates', nodeId: 's=Hopper.Gates' });
  analogue(own, hopper, 'Weight', 'Weight in the hopper', { low: 0, high: 200 }, () => w.weight);
  analogue(
    own,
    hopper,
    'WeightSetPoint',
    'Weight of a batch, set point',
    { low: 20, high: 150 },
    () => w.weightSp,
    (value) => (w.weightSp = Number(value)),
  );
  analogue(own, hopper, 'LastBatch', 'Weight of the last batch', { low: 0, high: 200 }, () => w.lastBatch);
  plain(
    own,
    hopper,
    'Running',
    'The weigher runs',
    DataType.Boolean,
    () => w.isRunning,
    (value) => (w.isRunning = value === true),
  );
  plain(own, hopper, 'Batches', 'Batches since January', DataType.UInt32, () => w.batches);
  plain(own, hopper, 'TotalMilligrams', 'All that was weighed, exact', DataType.UInt64, () => halves(w.totalMg));
  plain(
    own,
    hopper,
    'Recipe',
    'Recipe in use',
    DataType.String,
    () => w.recipe,
    (value) => (w.recipe = String(value)),
  );
  own.addMultiStateDiscrete({
    componentOf: hopper,
    browseName: 'State',
    nodeId: 's=Hopper.State',
    description: 'What the weigher does',
    accessLevel: AccessLevelFlag.CurrentRead,
    enumStrings: [...STATES],
    value: { get: () => new Variant({ dataType: DataType.UInt32, value: w.state }) },
  });
  own.addVariable({
    componentOf: gates,
    browseName: 'Open',
    nodeId: 's=Hopper.Gates.Open',
    description: 'How far each gate is open, in percent',
    dataType: 'Float',
    valueRank: 1,
    arrayDimensions: [w.gates.length],
    minimumSamplingInterval: 100,
    accessLevel: AccessLevelFlag.CurrentRead,
    value: { get: () => new Variant({ dataType: DataType.Float, arrayType: VariantArrayType.Array, value: Float32Array.from(w.gates) }) },
  });
}

type Setter = (value: unknown) => unknown;
type Parent = ReturnType<Namespace['addObject']>;

function plain(own: Namespace, parent: Parent, name: string, description: string, dataType: DataType, get: () => unknown, set?: Setter): void {
  own.addVariable({
    componentOf: parent,
    browseName: name,
    nodeId: `s=Hopper.${name}`,
    description,
    dataType: DataType[dataType],
    minimumSamplingInterval: 100,
    accessLevel: accessOf(set),
    value: valueOf(dataType, get, set),
  });
}

/** Of kilograms, UNECE code KGM. */
function analogue(
  own: Namespace,
  parent: Parent,
  name: string,
  description: string,
  range: { low: number; high: number },
  get: () => number,
  set?: Setter,
): void {
  own.addAnalogDataItem({
    componentOf: parent,
    browseName: name,
    nodeId: `s=Hopper.${name}`,
    description,
    dataType: 'Double',
    minimumSamplingInterval: 100,
    accessLevel: accessOf(set),
    engineeringUnitsRange: range,
    instrumentRange: range,
    engineeringUnits: {
      namespaceUri: 'http://www.opcfoundation.org/UA/units/un/cefact',
      unitId: 4_933_453,
      displayName: { text: 'kg' },
      description: { text: 'kilogram' },
    },
    value: valueOf(DataType.Double, get, set),
  });
}

function accessOf(set: Setter | undefined): number {
  return set ? AccessLevelFlag.CurrentRead | AccessLevelFlag.CurrentWrite : AccessLevelFlag.CurrentRead;
}

function valueOf(dataType: DataType, get: () => unknown, set: Setter | undefined) {
  return {
    get: () => new Variant({ dataType, arrayType: VariantArrayType.Scalar, value: get() }),
    ...(set
      ? {
          set: (variant: Variant): StatusCode => {
            set(variant.value);
            return StatusCodes.Good;
          },
        }
      : {}),
  };
}

function halves(value: bigint): [number, number] {
  return [Number(value >> 32n), Number(value & 0xffff_ffffn)];
}

export function tellWeigher(w: WeigherState): Readonly<Record<string, Told>> {
  const kg = (value: number): Told => ({ value, unit: 'kg' });
  return {
    weight: kg(w.weight),
    weight_sp: kg(w.weightSp),
    last_batch: kg(w.lastBatch),
    running: { value: w.isRunning, unit: '' },
    batches: { value: w.batches, unit: '' },
    total_mg: { value: w.totalMg.toString(), unit: 'mg' },
    recipe: { value: w.recipe, unit: '' },
    weigher_state: { value: w.state, unit: '' },
    gate_1: { value: w.gates[0] ?? 0, unit: '%' },
    gate_2: { value: w.gates[1] ?? 0, unit: '%' },
    gate_3: { value: w.gates[2] ?? 0, unit: '%' },
  };
}
