-- The least of late rows: read the file, find the version of each that holds at its date, write nothing.
set memory_limit = '${memory}';
create temp table staged as
select * from read_csv('${csv}', auto_detect = false, header = true, columns = {guest_no: 'bigint', town: 'varchar', country: 'varchar', changed_on: 'date'});
select count(*)
from staged as s
join dim_guest as d on d.guest_no = s.guest_no and s.changed_on >= d.valid_from and s.changed_on < d.valid_to;
