-- The least: the rows as they are, without keys, history or any check.
set memory_limit = '${memory}';
create table guests as
select * from read_csv('${csv}', auto_detect = false, header = true, columns = {guest_no: 'bigint', guest_name: 'varchar', email: 'varchar', phone: 'varchar', street: 'varchar',
    born_on: 'date', town: 'varchar', country: 'varchar', membership: 'varchar', nights: 'integer', joined_on: 'date',
    rating: 'decimal(4,1)', tours: 'integer'});
