-- Raw values by which a device says that it has none; a tag without any has those of its group.
alter table tags add column unavailable text;
alter table groups add column unavailable text;
