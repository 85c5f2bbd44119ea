/** What it means that a host or port cannot be reached, and what may be the cause. */
import type { Problem } from '@/core/result.ts';
import type { TestCause } from '../contract.ts';

export function hostFailure(problem: Problem): { readonly meaning: string; readonly causes: readonly TestCause[] } {
  const known = HOST_FAILURES[problem.code];
  if (!known)
    return {
      meaning: 'No connection came about.',
      causes: [{ id: problem.code, cause: problem.message, remedy: problem.remedy ?? 'Check address and port.' }],
    };
  return { meaning: known.meaning, causes: known.causes.map(([cause, remedy]) => ({ id: problem.code, cause, remedy })) };
}

const HOST_FAILURES: Readonly<Record<string, { readonly meaning: string; readonly causes: readonly (readonly [cause: string, remedy: string])[] }>> =
  {
    'host-refused': {
      meaning: 'The machine is there, but it takes no connection on this port.',
      causes: [
        ['The port is different', 'Compare the port with the manual; 502 is usual.'],
        ['Modbus is switched off in the device', 'Switch Modbus TCP on in its settings.'],
        ['A simulated device is not running', 'Start it.'],
      ],
    },
    'host-unreachable': {
      meaning: 'No route leads from this machine to that address.',
      causes: [
        ['The address is different', 'Compare it with the device.'],
        ['This machine is in another subnet', 'Give it an address in the subnet of the device.'],
        ['The cable is not plugged in', 'Check cable and switch.'],
      ],
    },
    'host-unknown': {
      meaning: 'The name could not be turned into an address.',
      causes: [['The name is misspelt or not known here', 'Use the IP address.']],
    },
    'host-silent': {
      meaning: 'Nothing came back from that address.',
      causes: [
        ['The device is off, or its address is different', 'Check its supply and its address.'],
        ['The cable is not plugged in', 'Check cable and switch.'],
        ['A firewall is in between', 'Check firewalls in between.'],
      ],
    },
    'closed-by-peer': {
      meaning: 'The device took the connection and ended it.',
      causes: [
        ['Another program holds its only connection', 'Close other programs that talk to it.'],
        ['This machine is not on its list of allowed hosts', 'Check that list in the device.'],
      ],
    },
    malformed: {
      meaning: 'Something else than Modbus TCP answers on this port.',
      causes: [
        ['Another service listens on this port', 'Compare the port with the manual.'],
        ['The gateway passes serial frames on without translating', 'Make the link through a serial gateway instead.'],
      ],
    },
    silent: {
      meaning: 'The connection stands, but requests are no longer answered.',
      causes: [
        ['The device hangs, or a gateway waits for its line', 'Check the device, and the line behind a gateway.'],
        ['The unit number is different', 'Compare it with the device.'],
      ],
    },
    'port-missing': {
      meaning: 'This machine has no such port.',
      causes: [['The adapter is not plugged in, or has another name', 'Choose one of the ports listed; names under by-id stay.']],
    },
    'port-forbidden': {
      meaning: 'The port is there and may not be opened.',
      causes: [['This user has no right to it', 'Add the user to the group dialout, and log in again.']],
    },
    'port-in-use': {
      meaning: 'The port belongs to another program now.',
      causes: [['Another program holds it', 'Close that program, or the other link on this port.']],
    },
    'port-gone': { meaning: 'The port has vanished.', causes: [['The adapter was unplugged', 'Plug it in again; the link comes back by itself.']] },
  };
