/** Looking at staged data: what each column holds, what it may be for, and a first definition made of that. */
@NullMarked
package dev.zeitkammer.profile;

import org.jspecify.annotations.NullMarked;
