/* Numbers as text, for tables that are written row by row: without a lock, without memory, the same bytes everywhere.
 */
#ifndef RUNTIME_DIGITS_H
#define RUNTIME_DIGITS_H

#include <stdint.h>

#define RGP_HAS_LITTLE_ENDS                                                                   \
    (__BYTE_ORDER__ == __ORDER_LITTLE_ENDIAN__) /* the first byte is the lowest one of a word \
                                                 */

#define RGP_DIGITS_ROOM 40u /* bytes that a number takes at most, with the 0 behind it */

/* The fewest digits, from 6 to 9, whose nearest decimal reads back to this float, as printf("%.*g") writes them.
 * Finite. Returns the end of the text, where a 0 stands. */
char *rgp_digits_float(char *to, float value);

/* The same by printf() and strtod(), for any float: what the above is held against. */
char *rgp_digits_float_slowly(char *to, float value);

/* The number at the start of a text, as g_ascii_strtod() reads it: the same double, and the same end. Short decimals,
 * as most are, by a whole number and a power of ten, both exact, so that one division rounds once (Clinger, 1990); all
 * others by g_ascii_strtod() itself. */
double rgp_digits_read(const char *text, char **end);

/* The same, eight digits at a time where the bytes before `limit`, all of which may be read, are enough. */
double rgp_digits_read_in(const char *text, const char *limit, char **end);

/* A whole number, with at least so many digits, zeros in front. */
char *rgp_digits_whole(char *to, int64_t value, uint32_t least);

#endif
