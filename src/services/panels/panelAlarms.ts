/** Alarms as panels show and handle them. */
import { alarmFilter, shownBy } from '@/core/panel/panelAlarms.ts';
import { passes, type AlarmLine, type AlarmRecord, type AlarmsNow } from '@/core/alarm/alarmLine.ts';
import type { Alarm } from '@/core/project/entities.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { ActRequest, AlarmService } from '../alarms/alarmService.ts';
import type { PanelService } from '../panelService.ts';

export interface PanelActRequest extends Omit<ActRequest, 'by'> {
  readonly panelId: string;
  readonly elementId: string;
  readonly session?: string | undefined;
}

/** Somebody at the panel whom nobody knows. */
const NOBODY_KNOWN = 'the panel';

export class PanelAlarms {
  readonly #model: ProjectModel;
  readonly #panels: PanelService;
  readonly #alarms: AlarmService;

  constructor(model: ProjectModel, panels: PanelService, alarms: AlarmService) {
    this.#model = model;
    this.#panels = panels;
    this.#alarms = alarms;
  }

  now(panelId: string): AlarmsNow {
    return this.#alarms.now(this.#shownOn(panelId));
  }

  /** What became of those that it shows, the newest first. */
  async records(panelId: string, limit: number): Promise<Result<readonly AlarmRecord[]>> {
    if (!this.#model.get('panel', panelId)) return fail('gone', 'There is no such panel (any more).', 'Look at the panel again.');
    const isShown = this.#shownOn(panelId);
    // Those of other panels are left out: a few times as many are looked at.
    const all = await this.#alarms.records({ limit: limit * 4 });
    return ok(all.filter(isShown).slice(0, limit));
  }

  async act({ panelId, elementId, session, ...act }: PanelActRequest): Promise<Result<AlarmLine>> {
    const operated = this.#panels.operated(panelId, elementId, session);
    if (!operated.ok) return operated;
    const { element, by } = operated.value;
    const filter = alarmFilter(element);
    const alarm = this.#model.get('alarm', act.alarmId);
    if (!filter || !alarm || !passes(alarm, filter)) return fail('not-here', 'This element does not show the alarm.', 'Look at the panel again.');
    if ((act.act === 'shelve' || act.act === 'unshelve') && element.settings.canShelve === false)
      return fail('not-here', 'Alarms are not shelved here.');
    return this.#alarms.act({ ...act, by: by || NOBODY_KNOWN });
  }

  #shownOn(panelId: string): (alarm: Pick<Alarm, 'priority' | 'group'>) => boolean {
    return shownBy(this.#model.pagesOf(panelId).flatMap(({ id }) => this.#model.elementsOn(id)));
  }
}
