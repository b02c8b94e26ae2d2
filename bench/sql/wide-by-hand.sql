-- The same, compared.
set memory_limit = '${memory}';
create temp table staged as
select * from read_csv('${csv}', auto_detect = false, header = true, columns = {${columns}}, store_rejects = true);
select case when count(*) > 0 then error('a hut stands twice') end
from (select hut_no from staged group by hut_no having count(*) > 1) as twice;
create temp table changes as
select s.hut_no
from staged as s
left join dim_hut as d on d.hut_no = s.hut_no and d.is_current
where d.hut_key is null or ${differs};
