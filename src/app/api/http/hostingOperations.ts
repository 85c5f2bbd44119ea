/** Operations of panel hosts that the bench is paired with. */
import { BACK_BODY, PAIR_HOST_BODY, SEND_BODY } from './bodies.ts';
import type { Operation } from './operation.ts';

export const HOSTING_OPERATIONS: readonly Operation[] = [
  { method: 'get', path: '/hosts', summary: 'Panel hosts that this bench is paired with', answer: 'Name, address, and what was sent last of each' },
  {
    method: 'post',
    path: '/hosts',
    summary: 'Pair with a panel host by the code that it shows',
    answer: 'The panel host',
    body: PAIR_HOST_BODY,
  },
  { method: 'get', path: '/hosts/{id}', summary: 'How a panel host is', answer: 'What runs there, its program, its clock, its room' },
  {
    method: 'get',
    path: '/hosts/{id}/compare',
    summary: 'What sending a panel would do; nothing is changed',
    answer: 'What runs there, what would be added, changed and removed, and why it cannot be sent',
    query: { panel: 'id of the panel' },
  },
  {
    method: 'post',
    path: '/hosts/{id}/send',
    summary: 'Send a panel, with all that it needs; taken over as a whole, or not at all',
    answer: 'How far it is, a line each, and at last how the panel host is then, or why it did not come to that',
    body: SEND_BODY,
  },
  {
    method: 'post',
    path: '/hosts/{id}/back',
    summary: 'Let what ran on a panel host before run again',
    answer: 'How the panel host is then',
    body: BACK_BODY,
  },
  { method: 'post', path: '/hosts/{id}/log', summary: 'Fetch what is new of its log of writes', answer: 'How many entries came' },
  { method: 'get', path: '/hosts/{id}/project-file', summary: 'What runs on a panel host', answer: 'A project file', givesFile: true },
  { method: 'post', path: '/hosts/{id}/forget', summary: 'Forget a panel host; what runs there runs on', answer: 'Nothing' },
];
