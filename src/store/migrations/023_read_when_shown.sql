-- Values that are read only while something shows them or goes by them.
alter table devices add column reads text not null default 'always';
alter table groups add column reads text;
