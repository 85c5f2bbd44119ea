import type { TagScale } from '@/core/project/entities.ts';
import { aggregate, json, text } from './aggregate.ts';

export const scales = aggregate<TagScale>('scales', { id: ['id', text], scale: ['scale', json] });
