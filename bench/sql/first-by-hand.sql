-- A first load as an expert would write it.
set memory_limit = '${memory}';
create table dim_guest (
  guest_key bigint, guest_no bigint, guest_name varchar, email varchar, phone varchar, street varchar, born_on date,
  town varchar, country varchar, membership varchar, nights integer, joined_on date, rating decimal(4,1), tours integer,
  valid_from date, valid_to date, is_current boolean, version integer, is_deleted boolean, row_origin varchar,
  inserted_at timestamp, updated_at timestamp, inserted_by bigint, updated_by bigint);
create temp table staged as
select * from read_csv('${csv}', auto_detect = false, header = true, store_rejects = true, columns = {guest_no: 'bigint', guest_name: 'varchar', email: 'varchar', phone: 'varchar', street: 'varchar',
    born_on: 'date', town: 'varchar', country: 'varchar', membership: 'varchar', nights: 'integer', joined_on: 'date',
    rating: 'decimal(4,1)', tours: 'integer'});
-- A key that stands twice would make two members of one.
select case when count(*) > 0 then error('a guest stands twice') end
from (select guest_no from staged group by guest_no having count(*) > 1) as twice;
begin;
insert into dim_guest
select row_number() over (), guest_no, guest_name, email, phone, street, born_on, town, country, membership, nights,
  joined_on, rating, tours, date '${date}', date '9999-12-31', true, 1, false, 'source', now()::timestamp, now()::timestamp, 1, 1
from staged;
commit;
