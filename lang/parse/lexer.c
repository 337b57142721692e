/* Text to tokens: words, numbers, marks, texts, and the indents of lines. */
#include "lexer.h"

#include "lang/vocabulary/words.h"

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

#define TAB_WIDTH  8
#define TEXT_MAX   200u
#define LINE_BYTES 65536u /* at most */

const char *const token_marks[MARKS] = {
    [MARK_NONE] = "",   [MARK_EQUALS] = "=", [MARK_COLON] = ":",  [MARK_COMMA] = ",", [MARK_SEMICOLON] = ";",
    [MARK_BAR] = "|",   [MARK_OPEN] = "(",   [MARK_CLOSE] = ")",  [MARK_PLUS] = "+",  [MARK_MINUS] = "-",
    [MARK_TIMES] = "*", [MARK_OVER] = "/",   [MARK_RANGE] = "..",
};

typedef struct scanner {
    report *to;
    const char *text;
    uint32_t at, end;
    uint32_t next_line; /* where the one after this begins */
    int32_t indent;     /* of the current line until its first token is out, then -1 */
    bool glued;
    char indented_with;    /* a blank or a tab; '\0': no line yet */
    bool mixed;            /* which has been said */
    uint32_t foreign_line; /* next_line of the last line with a foreign character */
    token *token;
    unsigned tokens, room;
} scanner;

static char peek(const scanner *s, uint32_t ahead)
{
    return s->at + ahead < s->end ? s->text[s->at + ahead] : '\0';
}

static bool is_digit(char c)
{
    return c >= '0' && c <= '9';
}

static bool begins_word(char c)
{
    return (c >= 'a' && c <= 'z') || (c >= 'A' && c <= 'Z') || c == '_' || (unsigned char)c >= 0x80;
}

static token *add_token(scanner *s, token_kind kind, uint32_t start)
{
    token *t = ARENA_PUSH(s->to->arena, s->token, s->tokens, s->room);
    *t = (token){.kind = kind, .at = {start, s->at}, .indent = s->indent, .glued = s->glued, .text = ""};
    s->indent = -1;
    s->glued = true;
    return t;
}

static void lex_number(scanner *s)
{
    const uint32_t start = s->at;
    while (is_digit(peek(s, 0))) {
        s->at++;
    }
    if (peek(s, 0) == '.' && is_digit(peek(s, 1))) {
        s->at++;
        while (is_digit(peek(s, 0))) {
            s->at++;
        }
    }
    const uint32_t sign = peek(s, 1) == '+' || peek(s, 1) == '-';
    if ((peek(s, 0) == 'e' || peek(s, 0) == 'E') && is_digit(peek(s, 1 + sign))) {
        s->at += 1 + sign;
        while (is_digit(peek(s, 0))) {
            s->at++;
        }
    }
    token *t = add_token(s, TOKEN_NUMBER, start);
    t->text = arena_copy(s->to->arena, s->text + start, s->at - start);
    t->number = strtod(t->text, NULL);
    if (!isfinite(t->number)) {
        report_error(s->to, t->at, "the greatest is about 1e38", "this number is too large");
        t->number = 1.0;
    }
}

static const foreign_character *foreign_here(const scanner *s)
{
    return (unsigned char)peek(s, 0) >= 0x80 ? foreign_character_at(s->text + s->at, s->end - s->at) : NULL;
}

static void lex_foreign(scanner *s, const foreign_character *found)
{
    const uint32_t start = s->at;
    s->at += (uint32_t)strlen(found->bytes);
    s->glued = false;
    if (s->foreign_line != s->next_line) { /* quotes come in pairs: one mistake */
        report_error(s->to, (text_range){start, s->at}, found->advice, "this is %s", found->name);
    }
    s->foreign_line = s->next_line;
}

static void lex_word(scanner *s)
{
    const uint32_t start = s->at;
    while ((begins_word(peek(s, 0)) && !foreign_here(s)) || is_digit(peek(s, 0))) {
        s->at++;
    }
    token *t = add_token(s, TOKEN_WORD, start);
    uint32_t length = s->at - start;
    if (length > TEXT_MAX) {
        report_error(s->to, t->at, NULL, "this name has %u characters (limit %u)", length, TEXT_MAX);
        length = TEXT_MAX;
    }
    char *text = arena_copy(s->to->arena, s->text + start, length);
    if (strcmp(rgp_make_printable(text, false), arena_copy(s->to->arena, s->text + start, length)) != 0) {
        report_error(s->to, t->at, "type it anew", "this name holds a character that cannot be shown");
    }
    t->text = text;
}

static void lex_string(scanner *s)
{
    const uint32_t start = s->at++;
    while (s->at < s->end && peek(s, 0) != '"' && peek(s, 0) != '\n') {
        s->at++;
    }
    uint32_t length = s->at - start - 1;
    if (peek(s, 0) == '"') {
        s->at++;
    } else {
        report_error(s->to, (text_range){start, s->at}, "close it with \" on the same line", "this text is not closed");
    }
    token *t = add_token(s, TOKEN_STRING, start);
    if (length > TEXT_MAX) {
        report_error(s->to, t->at, NULL, "this text has %u characters (limit %u)", length, TEXT_MAX);
        length = TEXT_MAX;
    }
    t->text = rgp_make_printable(arena_copy(s->to->arena, s->text + start + 1, length), false);
}

/* "1,5": digits on both sides, and no blank. */
static void refuse_decimal_comma(scanner *s)
{
    const token *before = s->tokens > 0 ? &s->token[s->tokens - 1] : NULL;
    if (before && before->kind == TOKEN_NUMBER && before->at.end == s->at && is_digit(peek(s, 1))) {
        uint32_t end = s->at + 1;
        while (end < s->end && is_digit(s->text[end])) {
            end++;
        }
        const int digits = (int)(end - s->at - 1);
        report_error(s->to, (text_range){before->at.start, end},
                     arena_print(s->to->arena, "write %s.%.*s, or in a list %s, %.*s", before->text, digits,
                                 s->text + s->at + 1, before->text, digits, s->text + s->at + 1),
                     "a decimal mark is a point, and numbers of a list have a blank between them");
    }
}

static token_mark mark_here(const scanner *s)
{
    token_mark mark = MARKS;
    while (--mark > MARK_NONE) {
        const size_t length = strlen(token_marks[mark]);
        if (s->end - s->at >= length && memcmp(s->text + s->at, token_marks[mark], length) == 0) {
            return mark;
        }
    }
    return MARK_NONE;
}

static void lex_mark(scanner *s)
{
    const uint32_t start = s->at;
    const char c = s->text[s->at];
    const token_mark mark = mark_here(s);
    if (c == ',') {
        refuse_decimal_comma(s);
    }
    if (c == '%') {
        s->at++;
        add_token(s, TOKEN_WORD, start)->text = "%";
    } else if (mark != MARK_NONE) {
        s->at += (uint32_t)strlen(token_marks[mark]);
        token *t = add_token(s, TOKEN_MARK, start);
        t->mark = mark;
        t->text = token_marks[mark];
    } else {
        s->at++;
        s->glued = false;
        const bool printable = (unsigned char)c > 0x20 && (unsigned char)c < 0x7F;
        char shown[16];
        snprintf(shown, sizeof shown, printable ? "'%c'" : "byte 0x%02X", (unsigned char)c);
        report_error(s->to, (text_range){start, s->at}, rgp_word_elsewhere((const char[]){c, '\0'}),
                     "%s has no meaning in a rig file", shown);
    }
}

static bool skip_blanks(scanner *s)
{
    const char c = peek(s, 0);
    if (c == '\n') {
        s->indent = 0;
    } else if (c == ' ' || c == '\t' || c == '\r') {
        if (s->indent >= 0) {
            s->indent += c == '\t' ? TAB_WIDTH - s->indent % TAB_WIDTH : c == ' ';
        }
    } else if (c == '#') {
        while (s->at < s->end && peek(s, 0) != '\n') {
            s->at++;
        }
        s->glued = false;
        return true;
    } else {
        return false;
    }
    s->at++;
    s->glued = false;
    return true;
}

/* Tabs and blanks may not be mixed: which line is deeper would depend on who looks. An empty line says nothing. */
static void check_indentation(scanner *s, uint32_t begin)
{
    const char *line = s->text + begin;
    const size_t length = strspn(line, " \t");
    if (begin + length >= s->end || strchr("\r\n#", line[length])) {
        return;
    }
    for (uint32_t i = 0; i < length && !s->mixed; i++) {
        s->mixed = s->indented_with != '\0' && s->indented_with != line[i];
        s->indented_with = line[i];
        if (s->mixed) {
            report_error(s->to, (text_range){begin + i, begin + i + 1},
                         "indent all lines with blanks, or all with tabs",
                         line[i] == '\t' ? "this is a tab, and lines above are indented with blanks"
                                         : "this is a blank, and lines above are indented with tabs");
        }
    }
}

/* At the beginning of a line: true when it is longer than any that a person writes, and was passed over. */
static bool skip_long_line(scanner *s)
{
    if (s->at < s->next_line) {
        return false;
    }
    const char *end = memchr(s->text + s->at, '\n', s->end - s->at);
    const uint32_t begin = s->at, length = end ? (uint32_t)(end - s->text) - begin : s->end - begin;
    s->next_line = begin + length + 1;
    check_indentation(s, begin);
    if (length > LINE_BYTES) {
        s->at += length;
        report_error(s->to, (text_range){begin, s->at}, NULL, "this line has %u bytes (limit %u)", length, LINE_BYTES);
    }
    return length > LINE_BYTES;
}

token *lang_lex(report *to)
{
    scanner s = {.to = to, .text = to->source, .end = (uint32_t)to->length};
    if (s.end >= 3 && memcmp(s.text, "\xEF\xBB\xBF", 3) == 0) {
        s.at = 3;
    }
    const char *zero = memchr(to->source, '\0', to->length);
    const uint32_t zero_at = zero ? (uint32_t)(zero - to->source) : s.end;
    const uint32_t bad_at = text_not_utf8(to->source, s.end);
    if (zero_at < s.end || bad_at < s.end) {
        const uint32_t at = zero_at < bad_at ? zero_at : bad_at;
        report_error(to, (text_range){at, at + 1}, "a rig file is plain text, UTF-8", "this is not a text file");
        s.at = s.end;
    }
    while (s.at < s.end) {
        if (skip_long_line(&s) || skip_blanks(&s)) {
            continue;
        }
        const char c = peek(&s, 0);
        const foreign_character *foreign = foreign_here(&s);
        if (foreign) {
            lex_foreign(&s, foreign);
        } else if (is_digit(c)) {
            lex_number(&s);
        } else if (begins_word(c)) {
            lex_word(&s);
        } else if (c == '"') {
            lex_string(&s);
        } else {
            lex_mark(&s);
        }
    }
    s.indent = 0;
    s.glued = false;
    add_token(&s, TOKEN_END, s.end);
    return s.token;
}
