-- The least of a wide dimension in which nothing changed: read the file.
set memory_limit = '${memory}';
create temp table staged as
select * from read_csv('${csv}', auto_detect = false, header = true, columns = {${columns}});
