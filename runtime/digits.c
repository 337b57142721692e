/* Numbers as text.
 *
 * A float x = m / 2^s with a mantissa m of 24 bits. From 1e-4 up to, and not with, 1e6 it stands without an exponent, s
 * is from 4 to 37, and p digits have k = p - 1 - floor(log10 x) places behind the point, from 0 to 12. So
 *
 *   m * 10^k  <  2^24 * 10^12  <  2^64
 *
 * and x * 10^k = m * 10^k / 2^s is divided exactly: a quotient q and a remainder r, from which the nearest decimal
 * follows, to even in a tie, as printf() rounds. Whether it reads back to x is decided by the same r: the decimal is
 * off by r / (2^s * 10^k), or by 2^s - r where it was rounded up, and must not be off by more than half the way to the
 * next float, which is 10^k / 2 in these units, and towards 0 from a power of two 10^k / 4; just half of it reads back
 * to an even m. No step is rounded. All else takes the slow way. */
#include "digits.h"

#include <glib.h>
#include <math.h>
#include <stdbool.h>
#include <string.h>

#define DIGITS_LEAST 6
#define DIGITS_MOST  9
#define PLACES_MOST  12
#define POWER_OF_TWO (1u << 23) /* the mantissa of one */

static const uint64_t ten_to[PLACES_MOST + 1] = {1,           10,           100,          1000,      10000,
                                                 100000,      1000000,      10000000,     100000000, 1000000000,
                                                 10000000000, 100000000000, 1000000000000};

char *rgp_digits_float_slowly(char *to, float value)
{
    for (int digits = DIGITS_LEAST; digits <= DIGITS_MOST; digits++) {
        g_snprintf(to, RGP_DIGITS_ROOM, "%.*g", digits, (double)value);
        if ((float)g_ascii_strtod(to, NULL) == value) {
            break;
        }
    }
    return to + strlen(to);
}

static const char pairs[] =
    "00010203040506070809101112131415161718192021222324252627282930313233343536373839404142434445464748"
    "49505152535455565758596061626364656667686970717273747576777879808182838485868788899091929394959697"
    "9899";

/* Two digits at a time, from behind, in front of `end`; returns where they begin. */
static char *put_before(char *end, uint32_t value)
{
    for (; value >= 100; value /= 100) {
        end -= 2;
        memcpy(end, pairs + value % 100 * 2, 2);
    }
    if (value >= 10) {
        end -= 2;
        memcpy(end, pairs + value * 2, 2);
    } else {
        *--end = (char)('0' + value);
    }
    return end;
}

static char *put_unsigned(char *to, uint64_t value, uint32_t least)
{
    char backwards[32], *const end = backwards + sizeof backwards, *at = end;
    for (; value > UINT32_MAX; value /= 10) {
        *--at = (char)('0' + value % 10);
    }
    if (value > 0 || at == end) {
        at = put_before(at, (uint32_t)value);
    }
    while ((uint32_t)(end - at) < least) {
        *--at = '0';
    }
    memcpy(to, at, (size_t)(end - at));
    to += end - at;
    *to = '\0';
    return to;
}

char *rgp_digits_whole(char *to, int64_t value, uint32_t least)
{
    if (value < 0) {
        *to++ = '-';
    }
    return put_unsigned(to, value < 0 ? 0 - (uint64_t)value : (uint64_t)value, least);
}

/* q / 10^places, without zeros at its end; q is of nine digits at most. */
static char *put_decimal(char *to, uint32_t q, uint32_t places)
{
    char all[48] = {0}, *const end = all + 24, *at = put_before(end, q), *last = end;
    while ((uint32_t)(end - at) <= places) {
        *--at = '0';
    }
    while (last > end - places && last[-1] == '0') {
        last--;
    }
    const size_t front = (size_t)(end - places - at);
    memcpy(to, at, 8); /* of a constant length, as many as there can be, so that no function is called */
    to += front;
    if (last > end - places) {
        *to++ = '.';
        memcpy(to, end - places, 16);
        to += last - (end - places);
    }
    *to = '\0';
    return to;
}

/* floor(log10 x), for 1e-4 <= x < 1e6, by the power of two that x has; exact, for no float lies nearer to a power of
 * ten than a double can tell. */
static int32_t exponent_of(double x, uint32_t bits)
{
    static const int32_t head[] = {-5, -4, -4, -4, -4, -3, -3, -3, -2, -2, -2, -1, -1, -1, 0, 0, 0,
                                   0,  1,  1,  1,  2,  2,  2,  3,  3,  3,  3,  4,  4,  4,  5, 5, 5};
    static const double power[] = {1e-4, 1e-3, 1e-2, 1e-1, 1e0, 1e1, 1e2, 1e3, 1e4, 1e5, 1e6};
    const int32_t least = head[(bits >> 23 & 0xFFu) - 113u]; /* of 2^-14 and so on */
    return least + (x >= power[least + 5]);
}

/* The decimal of so many places that is nearest to m / 2^s; false when it does not read back. */
static bool nearest(uint32_t m, uint32_t s, uint32_t places, uint64_t *q)
{
    const uint64_t n = m * ten_to[places], one = (uint64_t)1 << s, r = n & (one - 1), floor = n >> s;
    const bool up = r > one / 2 || (r == one / 2 && (floor & 1u));
    const uint64_t off = up ? one - r : r;
    const uint64_t most = off << (!up && m == POWER_OF_TWO ? 2 : 1); /* against the way to the next float */
    *q = floor + (up ? 1u : 0u);
    return most < ten_to[places] || (most == ten_to[places] && m % 2 == 0);
}

char *rgp_digits_float(char *to, float value)
{
    uint32_t bits;
    memcpy(&bits, &value, sizeof bits);
    const double x = fabs((double)value);
    if (!((x >= 1e-4 && x < 1e6) || x == 0.0)) {
        return rgp_digits_float_slowly(to, value);
    }
    const uint32_t whole = (uint32_t)x;
    const uint32_t m = (bits & (POWER_OF_TWO - 1)) | POWER_OF_TWO, s = 150u - (bits >> 23 & 0xFFu);
    char *at = to;
    if (bits >> 31) {
        *at++ = '-';
    }
    if ((double)whole == x) { /* of at most six digits */
        return put_unsigned(at, whole, 1);
    }
    const uint32_t least = (uint32_t)(DIGITS_LEAST - 1 - exponent_of(x, bits));
    uint64_t q, fewer;
    for (uint32_t places = least + 1;; places++) { /* one more digit is never farther off; nine always read back */
        if (nearest(m, s, places, &q) || places == least + DIGITS_MOST - DIGITS_LEAST) {
            const bool least_do = places == least + 1 && nearest(m, s, least, &fewer);
            return put_decimal(at, (uint32_t)(least_do ? fewer : q), least_do ? least : places);
        }
    }
}

/* ---- reading ---- */

#define EXACT_DIGITS 15 /* a double holds every whole number of so many */

/* Goes on by the digits that stand there. */
static inline const char *take_digits(const char *at, uint64_t *whole)
{
    uint64_t sum = *whole;
    for (unsigned digit; (digit = (unsigned)(unsigned char)*at - '0') < 10u; at++) {
        sum = sum * 10 + digit;
    }
    *whole = sum;
    return at;
}

/* The same of the digits in the next eight bytes, in one go: each byte less '0' is 9 at most; ones and tens are joined
 * to pairs, pairs to fours, fours to eight. */
static inline const char *take_eight(const char *at, uint64_t *whole)
{
    static const uint32_t ten[] = {1, 10, 100, 1000, 10000, 100000, 1000000, 10000000, 100000000};
    uint64_t word;
    memcpy(&word, at, sizeof word);
    word ^= 0x3030303030303030u;
    const uint64_t others = (word | (word + 0x0606060606060606u)) & 0xF0F0F0F0F0F0F0F0u;
    const unsigned digits = others ? (unsigned)__builtin_ctzll(others) / 8u : 8u;
    if (digits == 0) {
        return at;
    }
    word <<= 64u - 8u * digits;
    word = (word * 10 + (word >> 8)) & 0x00FF00FF00FF00FFu;
    word = (word * 100 + (word >> 16)) & 0x0000FFFF0000FFFFu;
    *whole = *whole * ten[digits] + (uint32_t)(word * 10000 + (word >> 32));
    return digits < 8u ? at + digits : take_digits(at + 8, whole);
}

double rgp_digits_read_in(const char *text, const char *limit, char **end)
{
    static const double ten[EXACT_DIGITS + 1] = {1e0, 1e1, 1e2,  1e3,  1e4,  1e5,  1e6,  1e7,
                                                 1e8, 1e9, 1e10, 1e11, 1e12, 1e13, 1e14, 1e15};
    const bool negative = *text == '-';
    const char *at = text + negative, *const first = at;
    uint64_t whole = 0;
    at = take_digits(at, &whole);
    long digits = at - first, behind = 0;
    if (*at == '.') {
        const char *const point = at;
        at = limit - point > 8 && RGP_HAS_LITTLE_ENDS ? take_eight(at + 1, &whole) : take_digits(at + 1, &whole);
        behind = at - point - 1;
        digits += behind;
    }
    if (digits == 0 || digits > EXACT_DIGITS ||
        ((unsigned)*at | 0x20u) - 'a' < 26u) { /* with more, `whole` has run over */
        return g_ascii_strtod(text, end);
    }
    *end = (char *)(uintptr_t)at;
    const double size = (double)whole / ten[behind];
    return negative ? -size : size;
}

double rgp_digits_read(const char *text, char **end)
{
    return rgp_digits_read_in(text, text, end);
}
