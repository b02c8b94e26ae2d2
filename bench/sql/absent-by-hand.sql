-- A full extract as an expert would write it: a next load, and the end of members that it does not hold.
set memory_limit = '${memory}';
create temp table staged as
select * from read_csv('${csv}', auto_detect = false, header = true, store_rejects = true, columns = {guest_no: 'bigint', guest_name: 'varchar', email: 'varchar', phone: 'varchar', street: 'varchar',
    born_on: 'date', town: 'varchar', country: 'varchar', membership: 'varchar', nights: 'integer', joined_on: 'date',
    rating: 'decimal(4,1)', tours: 'integer'});
-- An update from two rows of one key would take one of them in silence.
select case when count(*) > 0 then error('a guest stands twice') end
from (select guest_no from staged group by guest_no having count(*) > 1) as twice;
create temp table changes as
select s.*, d.guest_key as old_key, d.version as old_version, d.born_on as first_born_on, d.joined_on as first_joined_on,
  (s.guest_name is distinct from d.guest_name or s.email is distinct from d.email or s.phone is distinct from
    d.phone or s.street is distinct from d.street or s.nights is distinct from d.nights or s.rating is distinct
    from d.rating) as overwrites,
  (s.town is distinct from d.town or s.country is distinct from d.country or s.membership is distinct from
    d.membership or s.tours is distinct from d.tours) as opens
from staged as s
left join dim_guest as d on d.guest_no = s.guest_no and d.is_current
where d.guest_key is null
  or s.guest_name is distinct from d.guest_name or s.email is distinct from d.email or s.phone is distinct from
    d.phone or s.street is distinct from d.street or s.nights is distinct from d.nights or s.rating is distinct
    from d.rating or s.town is distinct from d.town or s.country is distinct from d.country or s.membership is
    distinct from d.membership or s.tours is distinct from d.tours;
begin;
-- Type 1: on every version.
update dim_guest as d
set guest_name = c.guest_name, email = c.email, phone = c.phone, street = c.street, nights = c.nights, rating = c.rating, updated_at = now()::timestamp, updated_by = 2
from changes as c
where d.guest_no = c.guest_no and c.overwrites and c.old_key is not null;
update dim_guest as d
set valid_to = date '${date}', is_current = false, updated_at = now()::timestamp, updated_by = 2
from changes as c
where d.guest_key = c.old_key and c.opens;
insert into dim_guest (guest_key, guest_no, guest_name, email, phone, street, born_on, town, country, membership, nights,
  joined_on, rating, tours, valid_from, valid_to, is_current, version, is_deleted, row_origin, inserted_at, updated_at,
  inserted_by, updated_by)
select (select max(guest_key) from dim_guest) + row_number() over (), guest_no, guest_name, email, phone, street,
  case when old_key is null then born_on else first_born_on end, town, country, membership, nights,
  case when old_key is null then joined_on else first_joined_on end, rating, tours, date '${date}', date '9999-12-31', true,
  coalesce(old_version, 0) + 1, false, 'source', now()::timestamp, now()::timestamp, 2, 2
from changes
where old_key is null or opens;
-- Who is not in the extract has ended; more than a fifth of all would be a broken extract.
create temp table absent as
select d.guest_key
from dim_guest as d
where d.is_current and not d.is_deleted and d.guest_key > 0
  and not exists (select 1 from staged as s where s.guest_no = d.guest_no);
select case when (select count(*) from absent) > 0.2 * (select count(*) from dim_guest where is_current and not is_deleted and guest_key > 0)
  then error('the extract lacks too many guests') end;
update dim_guest as d
set valid_to = date '${date}', is_deleted = true, updated_at = now()::timestamp, updated_by = 2
from absent as a
where d.guest_key = a.guest_key;
commit;
