-- The least of a load: open the warehouse, and close it.
select 1;
