/** Ways out of this machine: what a link can be set to. */
export interface Ways {
  readonly serialPorts: readonly Way[];
  readonly adapters: readonly Way[];
}
export interface Way {
  readonly value: string;
  readonly label: string;
}
