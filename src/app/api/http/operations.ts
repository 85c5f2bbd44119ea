/** Every operation of the API, for its OpenAPI document. A test compares this list with the route files. */
import type { AnyObjectSchema } from 'yup';
import { COMMAND_SCHEMA } from '@/core/project/entities.ts';
import {
  CHECK_BODY,
  COMMIT_BODY,
  FIND_BODY,
  FIND_VALUE_BODY,
  JOIN_BODY,
  LOCK_BODY,
  NETWORK_BODY,
  PEER_BODY,
  PREVIEW_BODY,
  RESTORE_BODY,
  SIMULATION_BODY,
  TRY_BODY,
  UNLOCK_BODY,
  WRITE_BODY,
} from './bodies.ts';

export interface Operation {
  readonly method: 'get' | 'post';
  readonly path: string;
  readonly summary: string;
  readonly answer: string;
  readonly body?: AnyObjectSchema;
  /** The body is a zip. */
  readonly takesFile?: boolean;
  readonly givesFile?: boolean;
  readonly query?: Readonly<Record<string, string>>;
}

export const OPERATIONS: readonly Operation[] = [
  { method: 'get', path: '/openapi.json', summary: 'This document', answer: 'OpenAPI 3.1' },
  {
    method: 'get',
    path: '/project',
    summary: 'The whole project with its proofs',
    answer: 'Links, devices, lists, tags, scales, panels, pages, elements and proofs, with the revision they stand at',
  },
  { method: 'get', path: '/status', summary: 'What is online', answer: 'State of links and devices, devices unlocked for writing, server time' },
  { method: 'get', path: '/ways', summary: 'Serial ports and network adapters of this machine', answer: 'What a link can be set to' },
  { method: 'get', path: '/health', summary: 'How the server itself is', answer: 'Longest block of its loop since the last call, and its memory' },
  {
    method: 'get',
    path: '/values',
    summary: 'The newest value of every tag',
    answer: 'Value, text, unit, quality with its OPC UA status name, and time, by tag',
    query: { doubtful: '1: only those whose quality is not good' },
  },
  {
    method: 'post',
    path: '/commands',
    summary: 'Change the project',
    answer: 'The new revision and what was changed; a command sent again is not done again',
    body: COMMAND_SCHEMA,
  },
  { method: 'post', path: '/undo', summary: 'Undo the last change of the project', answer: 'The new revision and what was changed' },
  { method: 'post', path: '/redo', summary: 'Redo the change undone last', answer: 'The new revision and what was changed' },
  {
    method: 'get',
    path: '/history',
    summary: 'Changes of the project, the newest first',
    answer: 'Label, origin, time and state of each',
    query: { limit: 'how many, 50 unless given' },
  },
  { method: 'get', path: '/project-file', summary: 'The whole project as a file', answer: 'A zip of JSON and lists', givesFile: true },
  {
    method: 'post',
    path: '/project-file/preview',
    summary: 'Compare a project file with the project, without changing anything',
    answer: 'What would be added, changed and removed',
    takesFile: true,
  },
  {
    method: 'post',
    path: '/project-file/commit',
    summary: 'Bring a project file in, all or nothing',
    answer: 'The new revision and what was changed',
    takesFile: true,
    query: { command: 'id of the command, a UUID made by the sender' },
  },
  { method: 'get', path: '/backups', summary: 'Backups of the data folder, the newest first', answer: 'Name, time and reason of each' },
  {
    method: 'post',
    path: '/backups/restore',
    summary: 'Go back to a backup; the server starts again, and what is there now becomes a backup',
    answer: 'That it is starting again',
    body: RESTORE_BODY,
  },
  {
    method: 'get',
    path: '/network',
    summary: 'How the server is open to the local network, and who has joined',
    answer: 'Settings, adapters and peers',
  },
  {
    method: 'post',
    path: '/network',
    summary: 'Open the server to the local network, or close it',
    answer: 'Settings, adapters and peers',
    body: NETWORK_BODY,
  },
  { method: 'post', path: '/network/code', summary: 'A code with which one phone or panel may join', answer: 'The code, and until when it is valid' },
  {
    method: 'post',
    path: '/network/peers/{id}',
    summary: 'Give a phone or panel the right to write, take it away, or remove it',
    answer: 'Settings, adapters and peers',
    body: PEER_BODY,
  },
  {
    method: 'post',
    path: '/join',
    summary: 'Join with a code; asked by the phone or panel',
    answer: 'Who joined; the session is a cookie',
    body: JOIN_BODY,
  },
  {
    method: 'post',
    path: '/lists/preview',
    summary: 'Read a tag list without storing it',
    answer: 'Each row as understood, or the reason why not',
    body: PREVIEW_BODY,
  },
  {
    method: 'post',
    path: '/lists/commit',
    summary: 'Bring a tag list in, all rows or none',
    answer: 'The new revision and the tags',
    body: COMMIT_BODY,
  },
  {
    method: 'post',
    path: '/devices/{id}/test',
    summary: 'Test the connection of a device',
    answer: 'Stages, each when it is known: settings, host, protocol, unit, each area in use, identification, round trips',
  },
  {
    method: 'post',
    path: '/devices/{id}/try',
    summary: 'Read one tag with a dialect that is not kept',
    answer: 'Where it would be looked for, the bytes that came, and what would be shown',
    body: TRY_BODY,
  },
  {
    method: 'post',
    path: '/devices/{id}/find',
    summary: 'Where and how a value that is known stands in the device; only reads',
    answer: 'Every reading that shows it, the simplest first',
    body: FIND_VALUE_BODY,
  },
  {
    method: 'post',
    path: '/links/{id}/find/units',
    summary: 'Which units of a link answer; only reads, and has the line for itself meanwhile',
    answer: 'What was heard before, and each unit, each when it is known',
    body: FIND_BODY,
  },
  {
    method: 'post',
    path: '/links/{id}/find/line',
    summary: 'With which speed and parity a unit answers on a serial port; only reads, and has the port for itself meanwhile',
    answer: 'Each setting that was tried, up to the one that is answered',
    body: FIND_BODY,
  },
  {
    method: 'post',
    path: '/links/{id}/simulation',
    summary: 'Lead a link to a simulation of its devices, or to the machine again',
    answer: 'Nothing; the change of the project comes over the live channel',
    body: SIMULATION_BODY,
  },
  {
    method: 'post',
    path: '/tags/{id}/write',
    summary: 'Write a value to the controller',
    answer: 'What the controller really holds afterwards',
    body: WRITE_BODY,
  },
  {
    method: 'get',
    path: '/writes',
    summary: 'Log of writes, the newest first',
    answer: 'Old, asked and held value, time, origin and outcome of each',
    query: {
      limit: 'how many, 100 unless given',
      text: 'in the name of tag or device, the person or the note',
      state: 'sent, done, differs, refused, unknown or changedBack',
      origin: 'engineer, panel, rule or check',
      from: 'ISO 8601, included',
      to: 'ISO 8601, not included',
    },
  },
  {
    method: 'post',
    path: '/guard/unlock',
    summary: 'Unlock a device for writing, for a time, when it says that it is the one meant',
    answer: 'Until when, and for whom',
    body: UNLOCK_BODY,
  },
  { method: 'get', path: '/tags/{id}/identity', summary: 'What a tag that tells the identity of a device says now', answer: 'The text' },
  { method: 'post', path: '/guard/lock', summary: 'Lock one device, or all', answer: 'What is still unlocked', body: LOCK_BODY },
  {
    method: 'post',
    path: '/checks',
    summary: 'Check one tag now',
    answer: 'What pages drew compared with their samples, and the proof when a witness was given',
    body: CHECK_BODY,
  },
  {
    method: 'get',
    path: '/links/{id}/frames',
    summary: 'The newest frames of a link',
    answer: 'Number, time, direction, bytes and what is odd of each',
    query: { limit: 'how many, 60 unless given', after: 'number of the last frame that is known' },
  },
  {
    method: 'get',
    path: '/links/{id}/bus',
    summary: 'The requests of a link, how long each takes, how busy it is, and what would help',
    answer: 'Foreseen and measured times by scan group, use of the line, advice',
  },
  {
    method: 'get',
    path: '/links/{id}/capture',
    summary: 'The frames of a link that are kept, as a file',
    answer: 'A capture for a network analyser, or text',
    givesFile: true,
    query: { form: 'pcap (unless given) or text' },
  },
];
