/** The tags of PACK's controller, and how the process and they meet: what it measures is put in, what it is told is taken out. */
import type { Told } from '../controlChannel.ts';
import { BAGGERS, type PackState } from './process.ts';
import { BITS, BOOL, DINT, INT, LINT, REAL, SINT, structure, TagMemory, text, type MemberSpec, type Place, type StructureType } from './tagMemory.ts';

const PACKING = 'Program:Packing';
const HISTORY = 200;
export const STRING = text('STRING', 82);
export const RECIPE = text('RECIPE_NAME', 40);

const BAGGER_MEMBERS: readonly MemberSpec[] = [
  ['Running', BOOL],
  ['Fault', BOOL],
  ['State', DINT],
  ['Weight', REAL],
  ['Target', REAL],
  ['Bags', DINT],
  ['Jaw', REAL, 3],
  ['Recipe', RECIPE],
];

export class PackController {
  readonly memory = new TagMemory();
  readonly #pack: PackState;
  #bagger: StructureType = structure('BAGGER', BAGGER_MEMBERS);
  #setPoint = 'Line_SpeedSP';

  constructor(pack: PackState) {
    this.#pack = pack;
    const pallet = structure('PALLET', [
      ['Layer', SINT],
      ['Bags', DINT],
      ['Codes', INT, 8],
    ]);
    const { memory } = this;
    memory.add('', 'Line_Running', BOOL);
    memory.add('', 'Line_Speed', REAL);
    memory.add('', this.#setPoint, REAL);
    memory.add('', 'Shift_Name', STRING);
    memory.add('', 'Status', DINT);
    memory.add('', 'Alarms', BITS, [2]);
    memory.add('', 'Bags_Total', LINT);
    memory.add('', 'Film_Left', INT);
    memory.add('', 'Bagger', this.#bagger, [BAGGERS]);
    memory.add('', 'Grid', INT, [2, 3, 4]);
    memory.add('', 'Speed_History', REAL, [HISTORY]);
    memory.add('', '__internal', DINT);
    memory.add(PACKING, 'Step', DINT);
    memory.add(PACKING, 'Pallet', pallet);
    memory.add(PACKING, 'Bags_Wanted', DINT);
    const grid = this.#place(['Grid', 0, 0, 0]);
    for (let i = 0; i < 24; i++)
      new DataView(grid.tag.data.buffer).setInt16(2 * i, 100 * Math.floor(i / 12) + 10 * (Math.floor(i / 4) % 3) + (i % 4), true);
    this.#real(['Line_SpeedSP'], pack.beltSetPoint);
    this.#int([PACKING, 'Bags_Wanted'], 4800);
    for (const [i, bagger] of pack.baggers.entries()) {
      this.#real(['Bagger', i, 'Target'], bagger.target);
      this.#text(['Bagger', i, 'Recipe'], bagger.recipe);
      this.#bit(['Bagger', i, 'Running'], bagger.isRunning);
    }
    this.#bit(['Line_Running'], pack.isRunning);
    this.#text(['Shift_Name'], pack.shift);
    this.putIn();
  }

  /** What clients wrote. */
  takeOut(): void {
    const pack = this.#pack;
    pack.isRunning = this.#readBit(['Line_Running']);
    pack.beltSetPoint = this.#readReal([this.#setPoint]);
    pack.shift = this.#readText(['Shift_Name']);
    for (const [i, bagger] of pack.baggers.entries()) {
      bagger.isRunning = this.#readBit(['Bagger', i, 'Running']);
      bagger.target = this.#readReal(['Bagger', i, 'Target']);
      bagger.recipe = this.#readText(['Bagger', i, 'Recipe']);
    }
  }

  /** What the process measures. */
  putIn(): void {
    const pack = this.#pack;
    this.#real(['Line_Speed'], pack.beltSpeed);
    const status = this.#place(['Status']);
    const view = new DataView(status.tag.data.buffer);
    // Bits above the first four belong to whoever writes them.
    view.setInt32(0, (view.getInt32(0, true) & ~15) | (pack.isRunning ? 1 : 0) | 2 | 4 | (pack.filmLeft > 5 ? 8 : 0), true);
    const alarms = this.#place(['Alarms', 0]);
    const bits = new DataView(alarms.tag.data.buffer);
    for (const at of [0, 1])
      bits.setUint32(
        4 * at,
        [...pack.alarms].filter((a) => a >> 5 === at).reduce((all, a) => (all | (1 << (a & 31))) >>> 0, 0),
        true,
      );
    new DataView(this.#place(['Bags_Total']).tag.data.buffer).setBigInt64(0, pack.totalBags, true);
    new DataView(this.#place(['Film_Left']).tag.data.buffer).setInt16(0, Math.round(pack.filmLeft * 10), true);
    for (const [i, bagger] of pack.baggers.entries()) {
      this.#bit(['Bagger', i, 'Fault'], bagger.hasFault);
      this.#int(['Bagger', i, 'State'], bagger.state);
      this.#real(['Bagger', i, 'Weight'], bagger.weight);
      this.#int(['Bagger', i, 'Bags'], bagger.bags);
      for (const [at, jaw] of bagger.jaws.entries()) this.#real(['Bagger', i, 'Jaw', at], jaw);
    }
    const history = this.memory.find('', 'Speed_History');
    if (history) {
      history.data.copyWithin(4, 0, history.data.length - 4);
      new DataView(history.data.buffer, history.data.byteOffset).setFloat32(0, pack.beltSpeed, true);
    }
    const layer = this.#place([PACKING, 'Pallet', 'Layer']);
    layer.tag.data[layer.offset] = pack.layer;
    this.#int([PACKING, 'Pallet', 'Bags'], pack.bagsOnPallet);
    this.#int([PACKING, 'Step'], pack.baggers[0]?.state ?? 0);
  }

  /** As after a change of its program: the structure of a bagger has a member more at its start, and others elsewhere. */
  relay(): void {
    this.takeOut();
    const old = this.memory.find('', 'Bagger');
    if (!old) return;
    this.#bagger = structure('BAGGER', [['Sequence', DINT], ...[...BAGGER_MEMBERS].reverse()]);
    this.memory.remove('', 'Bagger');
    this.memory.add('', 'Bagger', this.#bagger, [BAGGERS]);
    for (const [i, bagger] of this.#pack.baggers.entries()) {
      this.#real(['Bagger', i, 'Target'], bagger.target);
      this.#text(['Bagger', i, 'Recipe'], bagger.recipe);
      this.#bit(['Bagger', i, 'Running'], bagger.isRunning);
    }
    this.putIn();
  }

  renameSetPoint(name: string): boolean {
    const tag = this.memory.find('', this.#setPoint);
    if (!tag || !/^[A-Za-z_]\w{0,39}$/.test(name)) return false;
    this.memory.rename(tag, name);
    this.#setPoint = name;
    return true;
  }

  /** The array of past speeds gets another length. */
  resizeHistory(length: number): void {
    this.memory.remove('', 'Speed_History');
    this.memory.add('', 'Speed_History', REAL, [length]);
    this.putIn();
  }

  /** In engineering terms, from the process and not from the memory. */
  told(): Readonly<Record<string, Told>> {
    const pack = this.#pack;
    const values: Record<string, Told> = {
      line_running: { value: pack.isRunning, unit: '' },
      line_speed: { value: pack.beltSpeed, unit: 'm/min' },
      line_speed_sp: { value: pack.beltSetPoint, unit: 'm/min' },
      shift: { value: pack.shift, unit: '' },
      bags_total: { value: String(pack.totalBags), unit: '' },
      film_left: { value: pack.filmLeft, unit: '%' },
      pallet_bags: { value: pack.bagsOnPallet, unit: '' },
      pallet_layer: { value: pack.layer, unit: '' },
      film_alarm: { value: pack.alarms.has(37), unit: '' },
      air_ok: { value: true, unit: '' },
      film_ok: { value: pack.filmLeft > 5, unit: '' },
      bags_wanted: { value: this.#view([PACKING, 'Bags_Wanted']).getInt32(0, true), unit: '' },
    };
    for (const [i, bagger] of pack.baggers.entries()) {
      const own = `bagger_${i + 1}_`;
      values[`${own}running`] = { value: bagger.isRunning, unit: '' };
      values[`${own}fault`] = { value: bagger.hasFault, unit: '' };
      values[`${own}state`] = { value: bagger.state, unit: '' };
      values[`${own}weight`] = { value: bagger.weight, unit: 'kg' };
      values[`${own}target`] = { value: bagger.target, unit: 'kg' };
      values[`${own}bags`] = { value: bagger.bags, unit: '' };
      values[`${own}recipe`] = { value: bagger.recipe, unit: '' };
      values[`${own}jaw`] = { value: bagger.jaws[0] ?? 0, unit: '°C' };
    }
    return values;
  }

  #place(steps: readonly (string | number)[]): Place {
    const place = this.memory.locate(steps);
    if ('general' in place) throw new Error(`no ${steps.join('.')}`);
    return place;
  }
  #view(steps: readonly (string | number)[]): DataView {
    const { tag, offset } = this.#place(steps);
    return new DataView(tag.data.buffer, tag.data.byteOffset + offset);
  }
  #real(steps: readonly (string | number)[], value: number): void {
    this.#view(steps).setFloat32(0, value, true);
  }
  #int(steps: readonly (string | number)[], value: number): void {
    this.#view(steps).setInt32(0, value, true);
  }
  #bit(steps: readonly (string | number)[], on: boolean): void {
    const { tag, offset, bit } = this.#place(steps);
    const mask = 1 << (bit ?? 0);
    tag.data[offset] = on ? (tag.data[offset] ?? 0) | mask : (tag.data[offset] ?? 0) & ~mask;
  }
  #text(steps: readonly (string | number)[], value: string): void {
    const { tag, offset, type } = this.#place(steps);
    tag.data.fill(0, offset, offset + type.bytes);
    new DataView(tag.data.buffer, tag.data.byteOffset).setInt32(offset, value.length, true);
    tag.data.set(Buffer.from(value, 'latin1'), offset + 4);
  }
  #readBit(steps: readonly (string | number)[]): boolean {
    const { tag, offset, bit } = this.#place(steps);
    return (((tag.data[offset] ?? 0) >> (bit ?? 0)) & 1) === 1;
  }
  #readReal(steps: readonly (string | number)[]): number {
    return this.#view(steps).getFloat32(0, true);
  }
  #readText(steps: readonly (string | number)[]): string {
    const { tag, offset } = this.#place(steps);
    const length = new DataView(tag.data.buffer, tag.data.byteOffset).getInt32(offset, true);
    return Buffer.from(tag.data.subarray(offset + 4, offset + 4 + length)).toString('latin1');
  }
}
