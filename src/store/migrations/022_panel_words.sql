-- What a panel and a controller say to each other, word by word; pages have numbers for it.
create table panel_words (
  id uuid primary key,
  panel_id uuid not null,
  role text not null,
  tag_id uuid not null,
  element_id uuid
);
alter table panels add column exchange jsonb not null
  default '{"offset": 0, "noWish": null, "whenBoth": "latest", "personSeconds": 60, "clockDaily": null}';
alter table panels add column screens text not null default 'apart';
alter table pages add column page_number integer;
