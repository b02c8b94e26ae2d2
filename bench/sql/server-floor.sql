-- The least on a server: carry the file there, join every row to its member, compare every attribute, write nothing.
set jit = off;
set work_mem = '128MB';
create temp table staged (guest_no bigint, guest_name text, email text, phone text, street text, born_on date, town text, country text, membership text,
  nights integer, joined_on date, rating decimal(4,1), tours integer);
\copy staged from '${csv}' with (format csv, header true);
analyze staged;
select count(*)
from staged as s
left join dim_guest as d on d.guest_no = s.guest_no and d.is_current
where d.guest_key is null
  or s.guest_name is distinct from d.guest_name or s.email is distinct from d.email or s.phone is distinct from
    d.phone or s.street is distinct from d.street or s.nights is distinct from d.nights or s.rating is distinct
    from d.rating or s.town is distinct from d.town or s.country is distinct from d.country or s.membership is
    distinct from d.membership or s.tours is distinct from d.tours;
