/** Serial ports and network adapters of this machine: what a link can be set to. */
export interface LocalPorts {
  readonly serialPorts: readonly LocalPort[];
  readonly adapters: readonly LocalPort[];
}
export interface LocalPort {
  readonly value: string;
  readonly label: string;
}
