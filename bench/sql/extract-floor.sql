-- The least of a small extract: read the file, and look once at the keys of the dimension.
set memory_limit = '${memory}';
create temp table staged as
select * from read_csv('${csv}', auto_detect = false, header = true, columns = {guest_no: 'bigint', guest_name: 'varchar', email: 'varchar', phone: 'varchar', street: 'varchar',
    born_on: 'date', town: 'varchar', country: 'varchar', membership: 'varchar', nights: 'integer', joined_on: 'date',
    rating: 'decimal(4,1)', tours: 'integer'});
select count(*)
from staged as s
join dim_guest as d on d.guest_no = s.guest_no and d.is_current;
