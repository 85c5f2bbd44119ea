-- How many rows each table holds and what they say, kept by the database itself with every statement: at the next start what
-- is there is compared with it. The sum of the rows' hashes does not depend on their order.
create table tallies (
  name text primary key,
  rows bigint not null,
  sum numeric not null
) with (fillfactor = 10);

create function tally_added() returns trigger language plpgsql as $$
begin
  update tallies set rows = tallies.rows + of_these.rows, sum = tallies.sum + of_these.sum
    from (select count(*) as rows, coalesce(sum(hashtextextended(fresh_row::text, 0)), 0) as sum from fresh fresh_row) of_these
    where name = tg_table_name;
  return null;
end $$;

create function tally_removed() returns trigger language plpgsql as $$
begin
  update tallies set rows = tallies.rows - of_these.rows, sum = tallies.sum - of_these.sum
    from (select count(*) as rows, coalesce(sum(hashtextextended(stale_row::text, 0)), 0) as sum from stale stale_row) of_these
    where name = tg_table_name;
  return null;
end $$;

create function tally_changed() returns trigger language plpgsql as $$
begin
  update tallies set sum = tallies.sum
      + (select coalesce(sum(hashtextextended(fresh_row::text, 0)), 0) from fresh fresh_row)
      - (select coalesce(sum(hashtextextended(stale_row::text, 0)), 0) from stale stale_row)
    where name = tg_table_name;
  return null;
end $$;

create function tally_emptied() returns trigger language plpgsql as $$
begin
  update tallies set rows = 0, sum = 0 where name = tg_table_name;
  return null;
end $$;
