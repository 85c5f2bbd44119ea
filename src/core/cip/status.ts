/** What a general status of CIP means (volume 1, appendix B-1; extended words as named-tag controllers use them: common practice, from memory). */
import { hexOf } from './bytes.ts';

export interface CipStatus {
  readonly general: number;
  /** The first additional word, 0 where there is none. */
  readonly extended: number;
}

export const SUCCESS = 0x00;
export const PARTIAL = 0x06;
export const EMBEDDED_ERROR = 0x1e;
export const NOT_SUPPORTED = 0x08;

const GENERAL: Readonly<Record<number, readonly [message: string, remedy?: string]>> = {
  0x01: ['The connection was refused', 'Look at the additional status.'],
  0x02: ['The controller has no resources left for it', 'It may serve too many clients: close some, or ask for less.'],
  0x03: ['A parameter of the request is not valid'],
  0x04: ['The controller has no tag or member of that name', 'It may have been renamed: ask the controller for its tags again.'],
  0x05: [
    'The controller knows no such destination',
    'It may be an element beyond the end of an array, or a tag that is gone: ask for its tags again.',
  ],
  0x06: ['Only a part of it fits into one reply'],
  0x08: ['The device has no such service', 'Check that this is a controller with named tags.'],
  0x09: ['A value of an attribute is not valid'],
  0x0a: ['A list of attributes has an error'],
  0x0c: ['The object is not in a state for that', 'Check the mode of the controller.'],
  0x0e: ['It cannot be set'],
  0x0f: ['The controller does not permit it', 'Its program may forbid access from outside to this tag, or its key switch forbids writing.'],
  0x10: ['The device is not in a state for that', 'Check the mode of the controller.'],
  0x11: ['The reply would be too large'],
  0x13: ['The request has not enough data'],
  0x15: ['The request has too much data'],
  0x16: ['The object does not exist'],
  0x1e: ['One of the services in the packet failed'],
  0x20: ['A parameter of the request is not valid'],
  0x26: ['The path of the request has a wrong length'],
};

const EXTENDED: Readonly<Record<number, readonly [message: string, remedy?: string]>> = {
  0x0100: ['The connection is in use already', 'Another client has it; it is tried again.'],
  0x0106: ['Another client owns the connection', 'Close the other client.'],
  0x0107: ['The controller knows no such connection (any more)', 'It is opened again by itself.'],
  0x0108: ['Connections of this kind are not supported'],
  0x0109: ['Messages of this size are not taken'],
  0x0111: ['The interval of the connection is not supported'],
  0x0113: ['The controller has no free connection', 'Close other clients of it.'],
  0x0203: ['The connection has timed out', 'It is opened again by itself.'],
  0x0204: ['Nobody answers at the end of the route', 'Check the route: the slot may be empty.'],
  0x0205: ['A parameter of the request is not valid'],
  0x0301: ['The controller has no memory for another connection', 'Close other clients of it.'],
  0x0311: ['The adapter has no such port', 'Check the route: 1 is the backplane.'],
  0x0312: ['The slot or address of the route is not there', 'Check the route: the slot may be empty.'],
  0x0315: ['The route cannot be read by the adapter', 'Check the route.'],
  0x0318: ['A module is missing in the slot', 'Check the route: the slot may be empty.'],
  0x2104: ['The offset is beyond the end of the tag'],
  0x2105: ['The array has fewer elements than that', 'It may have become shorter: ask the controller for its tags again.'],
  0x2107: ['The tag is of another type', 'Its type may have been changed: ask the controller for its tags again.'],
};

export function statusInWords({ general, extended }: CipStatus): { readonly message: string; readonly remedy?: string } {
  const told = EXTENDED[extended] ?? GENERAL[general] ?? ['The controller refused it'];
  const code = `status ${hexOf(general, 2)}${extended ? `, ${hexOf(extended, 4)}` : ''}`;
  return { message: `${told[0]} (${code}).`, ...(told[1] ? { remedy: told[1] } : {}) };
}
