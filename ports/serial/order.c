/* The lines that are sent to a device. */
#include "order.h"

#include "line.h"
#include "words.h"

#include <math.h>
#include <string.h>

#define NUMBER_MOST 64

static const char *word_of(const rgp_actuator_item *item, bool on)
{
    const char *said = item->text[on ? SENDS_ON : SENDS_OFF];
    return said ? said : on ? "1" : "0";
}

/* With a point, whatever the language of the machine. */
static void put_number(const rgp_actuator_item *item, float value, char to[NUMBER_MOST])
{
    char format[8] = "%.6g";
    if (item->value[SENDS_DECIMALS] != SENDS_AS_NEEDED) {
        g_snprintf(format, sizeof format, "%%.%.0ff", item->value[SENDS_DECIMALS]);
    }
    g_ascii_formatd(to, NUMBER_MOST, format, (double)value + 0.0); /* no -0 */
}

gsize order_compose(const rgp_actuator_item *item, bool is_switch, const char *line_end, float value,
                    char to[ORDER_MOST])
{
    char number[NUMBER_MOST];
    const char *mark = strstr(item->sent, SENDS_MARK), *text = number;
    if (is_switch) {
        text = word_of(item, value != 0.0f);
    } else {
        put_number(item, value, number);
    }
    const int length = g_snprintf(to, ORDER_MOST, "%.*s%s%s%s", (int)(mark - item->sent), item->sent, text,
                                  mark + strlen(SENDS_MARK), line_end);
    return MIN((gsize)length, ORDER_MOST - 1);
}

float order_read(const rgp_actuator_item *item, bool is_switch, const char *line)
{
    const char *mark = strstr(item->sent, SENDS_MARK), *behind = mark + strlen(SENDS_MARK);
    const gsize before = (gsize)(mark - item->sent), length = strlen(line), after = strlen(behind);
    if (length < before + after || strncmp(line, item->sent, before) != 0 ||
        strcmp(line + length - after, behind) != 0) {
        return NAN;
    }
    g_autofree char *value = g_strndup(line + before, length - before - after);
    double number;
    if (is_switch) {
        return strcmp(value, word_of(item, true)) == 0 ? 1.0f : strcmp(value, word_of(item, false)) == 0 ? 0.0f : NAN;
    }
    return line_number(value, &number) ? (float)number : NAN;
}
