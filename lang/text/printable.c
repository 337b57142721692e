/* Text from a file is data: whatever it holds, a terminal and a picture show it and do nothing else. */
#include "report.h"

#include <string.h>

/* No second way of writing a character, no halves of a pair, nothing beyond the last code point. */
static bool is_shortest(unsigned char first, unsigned char second)
{
    return !((first == 0xE0 && second < 0xA0) || (first == 0xED && second > 0x9F) || (first == 0xF0 && second < 0x90) ||
             (first == 0xF4 && second > 0x8F));
}

uint32_t text_not_utf8(const char *text, uint32_t end)
{
    for (uint32_t i = 0; i < end;) {
        const unsigned char c = (unsigned char)text[i];
        const bool lead = c < 0x80 || (c >= 0xC2 && c < 0xF5);
        const uint32_t more = c < 0x80 ? 0 : c < 0xE0 ? 1 : c < 0xF0 ? 2 : 3;
        for (uint32_t k = 1; k <= more; k++) {
            if (!lead || i + k >= end || !continues_character(text[i + k])) {
                return i;
            }
        }
        if (more > 0 && !is_shortest(c, (unsigned char)text[i + 1])) {
            return i;
        }
        i += 1 + more;
    }
    return end;
}

/* The code point that begins here, and its bytes; 0 bytes for what is no UTF-8 (RFC 3629). */
static uint32_t code_point(const char *text, uint32_t *bytes)
{
    const unsigned char *t = (const unsigned char *)text;
    const uint32_t length = t[0] < 0x80 ? 1 : t[0] < 0xE0 ? 2 : t[0] < 0xF0 ? 3 : 4;
    uint32_t code = length == 1 ? t[0] : t[0] & (0x7Fu >> length);
    *bytes = (uint32_t)text_length(text, length) == length && text_not_utf8(text, length) == length ? length : 0;
    for (uint32_t i = 1; i < *bytes; i++) {
        code = code << 6 | (t[i] & 0x3Fu);
    }
    return code;
}

static bool is_control(uint32_t code)
{
    return code < 0x20 || (code >= 0x7F && code < 0xA0) || code == 0x2028 || code == 0x2029 || code == 0x200E ||
           code == 0x200F || (code >= 0x202A && code <= 0x202E) || (code >= 0x2066 && code <= 0x2069);
}

char *rgp_make_printable(char *text, bool lines)
{
    char *to = text;
    for (const char *at = text; *at;) {
        uint32_t bytes;
        const uint32_t code = code_point(at, &bytes);
        if (bytes == 0) {
            *to++ = '?';
            at++;
        } else if (is_control(code) && !(lines && code == '\n')) {
            *to++ = ' ';
            at += bytes;
        } else {
            memmove(to, at, bytes);
            to += bytes;
            at += bytes;
        }
    }
    *to = '\0';
    return text;
}
