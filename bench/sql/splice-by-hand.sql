-- Late rows as an expert would write them: each divides the version that holds at its date, if it says anything else.
set memory_limit = '${memory}';
create temp table staged as
select * from read_csv('${csv}', auto_detect = false, header = true, store_rejects = true, columns = {guest_no: 'bigint', town: 'varchar', country: 'varchar', changed_on: 'date'});
-- Two rows of one guest would divide one version twice.
select case when count(*) > 0 then error('a guest stands twice') end
from (select guest_no from staged group by guest_no having count(*) > 1) as twice;
create temp table divided as
select s.*, d.guest_key as old_key, d.version as old_version, d.valid_to as old_valid_to, d.is_current as was_current
from staged as s
join dim_guest as d on d.guest_no = s.guest_no and s.changed_on > d.valid_from and s.changed_on < d.valid_to
where s.town is distinct from d.town or s.country is distinct from d.country;
begin;
-- Later versions count one more.
update dim_guest as d
set version = d.version + 1, updated_at = now()::timestamp, updated_by = 3
from divided as c
where d.guest_no = c.guest_no and d.version > c.old_version;
update dim_guest as d
set valid_to = c.changed_on, is_current = false, updated_at = now()::timestamp, updated_by = 3
from divided as c
where d.guest_key = c.old_key;
insert into dim_guest (guest_key, guest_no, town, country, valid_from, valid_to, is_current, version, is_deleted, row_origin,
  inserted_at, updated_at, inserted_by, updated_by)
select (select max(guest_key) from dim_guest) + row_number() over (order by guest_no), guest_no, town, country, changed_on, old_valid_to,
  was_current, old_version + 1, false, 'source', now()::timestamp, now()::timestamp, 3, 3
from divided;
commit;
