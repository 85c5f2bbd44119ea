-- Which versions of lists a change leads from or to, so that those are kept which undo can come back to. Null: not known.
alter table change_log add column version_ids uuid[];
update change_log set version_ids = '{}' where packed is null and changes::text not like '%"versionId"%';

-- What can be redone no more keeps its line, not its content.
update change_log set changes = '[]', packed = null, pack_id = null where state = 'dropped';
