/** Tags that the server itself goes by: they are read whether or not anybody looks at them. */
import { ROLES } from '@/core/panel/exchange.ts';
import { tagsOfAlarm } from '@/core/alarm/alarmTags.ts';
import { tagsOfBehaviour } from '@/core/simulation/behaviour.ts';
import { copyPairs } from '@/mapping/copies/copyPairs.ts';
import type { ProjectModel } from '@/model/projectModel.ts';

/** What alarms watch, expressions use, what copy rules copy or wait for, heartbeats, and what controllers say to panels. */
export function alwaysRead(model: ProjectModel): ReadonlySet<string> {
  const { copies } = model;
  const read = new Set(copies.usedInExpressions());
  for (const rule of copies.copyRules) {
    if (rule.triggerTagId !== null) read.add(rule.triggerTagId);
    for (const { fromId, toId } of copyPairs(rule, copies)) read.add(fromId).add(toId);
  }
  for (const alarm of model.all('alarm')) for (const id of tagsOfAlarm(alarm)) read.add(id);
  for (const { behaviour, runTagId } of model.all('simulation')) {
    if (runTagId !== null) read.add(runTagId);
    for (const id of tagsOfBehaviour(behaviour)) read.add(id);
  }
  for (const { lifeTagId } of model.all('device')) if (lifeTagId !== null) read.add(lifeTagId);
  for (const { role, tagId } of model.all('panelWord')) if (ROLES[role].by === 'controller') read.add(tagId);
  return read;
}
