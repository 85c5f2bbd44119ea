import type { Project } from '@/core/project/entities.ts';
import { aggregate, json, text } from './aggregate.ts';

export const projects = aggregate<Project>('projects', { id: ['id', text], name: ['name', text], dialects: ['dialects', json] });
