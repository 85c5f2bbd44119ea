/** Brings a tag list in: previewed row by row, then taken all or nothing as one command. */
import { v7 as uuid } from 'uuid';
import type { Change, Device, Link } from '@/core/project/entities.ts';
import type { Applied } from '@/core/project/snapshot.ts';
import { inSlices } from '@/core/inSlices.ts';
import { fail, ok, type Result } from '@/core/result.ts';
import { readList } from '@/core/taglist/readList.ts';
import { understandInSlices, type ListPreview } from '@/core/taglist/understand.ts';
import { describeDriver } from '@/drivers/descriptions.ts';
import type { ProjectModel } from '@/model/projectModel.ts';
import type { ProjectService } from './projectService.ts';

export interface ListCommit {
  readonly commandId: string;
  readonly sourceId: string;
  readonly deviceId: string;
  readonly fileName: string;
  readonly text: string;
}

export class ListService {
  readonly #model: ProjectModel;
  readonly #projects: ProjectService;

  constructor(model: ProjectModel, projects: ProjectService) {
    this.#model = model;
    this.#projects = projects;
  }

  async preview(deviceId: string, text: string): Promise<Result<ListPreview>> {
    const found = this.#device(deviceId);
    if (!found.ok) return found;
    const { device, link } = found.value;
    const driver = describeDriver(link.driver);
    if (!driver) return fail('driver', `No driver “${link.driver}” is known here.`);
    const list = readList(text);
    const rows = await understandInSlices(list, {
      parseAddress: (address, type) => driver.notation.parse(address, type, device.dialect),
      isNameTaken: (name) => this.#model.tagNamed(name) !== null,
    });
    const good = rows.filter((r) => r.tag !== null).length;
    return ok({
      problems: list.problems,
      unknownColumns: list.columns.unknown,
      understoodColumns: [...list.columns.byKey.keys()],
      rows,
      good,
      bad: rows.length - good,
    });
  }

  /** Stores every row, or none: one bad row refuses the list with its place. */
  async commit({ commandId, sourceId, deviceId, fileName, text }: ListCommit, origin = 'engineer'): Promise<Result<Applied>> {
    const preview = await this.preview(deviceId, text);
    if (!preview.ok) return preview;
    const first = preview.value.problems[0] ?? preview.value.rows.find((r) => r.problems.length > 0)?.problems[0];
    if (first) return fail(first.code, `The list was not taken: ${first.message}`, first.remedy, first.place);
    const tags = preview.value.rows.flatMap((r) => r.tag ?? []);
    const source: Change = { kind: 'source', id: sourceId, set: { deviceId, fileName, importedAt: new Date().toISOString(), rowCount: tags.length } };
    const changes = await inSlices(
      (function* () {
        const made = [source];
        for (const { row: _row, canonical: _canonical, ...tag } of tags) {
          made.push({ kind: 'tag', id: uuid(), set: { ...tag, deviceId, sourceId } });
          yield;
        }
        return made;
      })(),
    );
    return this.#projects.execute({ id: commandId, label: `list ${fileName} brought in, ${tags.length} tags`, changes }, origin);
  }

  #device(id: string): Result<{ readonly device: Device; readonly link: Link }> {
    const device = this.#model.get('device', id);
    const link = device && this.#model.get('link', device.linkId);
    return device && link ? ok({ device, link }) : fail('gone', 'The device is not there (any more).', 'Reload, and choose a device.', 'deviceId');
  }
}
