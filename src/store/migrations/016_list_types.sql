-- The type that a tag's list says it has; empty where the list was read before this was kept.
alter table tags add column list_type text not null default '';
