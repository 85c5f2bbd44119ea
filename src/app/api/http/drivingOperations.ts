/** Operations of values that are set for checks, and of ones that are held. */
import { DRIVE_BODY, HOLD_VALUE_BODY, ISOLATION_BODY, PERMISSION_BODY, WHO_BODY } from './bodies.ts';
import type { Operation } from './operation.ts';

export const DRIVING_OPERATIONS: readonly Operation[] = [
  {
    method: 'get',
    path: '/driven',
    summary: 'What is set and held now, what may be set, and whose machine is isolated',
    answer: 'Values with what was there before, permissions, isolations',
  },
  {
    method: 'post',
    path: '/driven',
    summary: 'Set a tag for a check: one at a time, within what was permitted',
    answer: 'What became of the write',
    body: DRIVE_BODY,
  },
  {
    method: 'post',
    path: '/driven/held',
    summary: 'Hold a value: write it again and again until it is released',
    answer: 'What became of the first write',
    body: HOLD_VALUE_BODY,
  },
  {
    method: 'post',
    path: '/driven/permissions',
    summary: 'Say that a tag may be set for checks, between which values, and whether that may move something',
    answer: 'The permission',
    body: PERMISSION_BODY,
  },
  {
    method: 'post',
    path: '/driven/permissions/{id}/end',
    summary: 'Say that a tag, by its id, may not be set for checks any more; what is set is put back',
    answer: 'Nothing',
    body: WHO_BODY,
  },
  {
    method: 'post',
    path: '/driven/isolation',
    summary: 'Declare the machine of a device isolated, for minutes; 0 says that it is in use again, and puts back what is set',
    answer: 'What may be set, and whose machine is isolated',
    body: ISOLATION_BODY,
  },
  {
    method: 'post',
    path: '/driven/back',
    summary: 'Put back all that is set and release all that is held, each where ours is still there',
    answer: 'How many, and why others could not be',
    body: WHO_BODY,
  },
  {
    method: 'post',
    path: '/driven/{id}/back',
    summary: 'Put one value back where ours is still there',
    answer: 'Whether the old value was written',
    body: WHO_BODY,
  },
  {
    method: 'post',
    path: '/driven/{id}/stay',
    summary: 'Say that a value may stay as it was set',
    answer: 'What may stay',
    body: WHO_BODY,
  },
];
