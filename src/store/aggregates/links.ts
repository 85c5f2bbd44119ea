import type { Link } from '@/core/project/entities.ts';
import { aggregate, json, text } from './aggregate.ts';

export const links = aggregate<Link>('links', {
  id: ['id', text],
  name: ['name', text],
  driver: ['driver', text],
  settings: ['settings', json],
  real: ['real_way', json],
});
