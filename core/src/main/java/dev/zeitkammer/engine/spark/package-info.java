/** A cluster as the warehouse: Spark SQL on Iceberg tables, over its public JDBC endpoint. */
@NullMarked
package dev.zeitkammer.engine.spark;

import org.jspecify.annotations.NullMarked;
