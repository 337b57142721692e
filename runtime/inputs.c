/* The inputs of a recorded run, read out of its two files. */
#include "inputs.h"

#include <string.h>

static void clear_line(gpointer at)
{
    g_free(((rgp_input *)at)->of);
}

rgp_inputs *rgp_inputs_new(void)
{
    rgp_inputs *inputs = g_new0(rgp_inputs, 1);
    inputs->sample = g_array_new(FALSE, FALSE, sizeof(rgp_input_sample));
    inputs->line = g_array_new(FALSE, FALSE, sizeof(rgp_input));
    g_array_set_clear_func(inputs->line, clear_line);
    return inputs;
}

void rgp_inputs_free(rgp_inputs *inputs)
{
    if (inputs) {
        g_array_unref(inputs->sample);
        g_array_unref(inputs->line);
        g_free(inputs);
    }
}

/* ---- samples --------------------------------------------------------------------------------------- */

static bool take_sample(rgp_inputs *inputs, const rgp_image_header *image, uint32_t row, char *text)
{
    char *colon = strstr(text, ": ");
    if (!colon) {
        return false;
    }
    *colon = '\0';
    const int32_t sensor = rgp_image_find(image, RGP_FIND_SENSOR, text);
    const char *is = colon + 2;
    char *end;
    rgp_input_sample sample = {.row = row, .sensor = (uint16_t)sensor};
    sample.same = strcmp(is, "same") == 0;
    sample.missing = strcmp(is, "missing") == 0;
    sample.age_us = sample.same || sample.missing ? 0 : g_ascii_strtoll(is, &end, 10);
    const bool known = sample.same || sample.missing || (end != is && *end == '\0');
    if (sensor >= 0 && known) {
        g_array_append_val(inputs->sample, sample);
    }
    return known;
}

bool rgp_inputs_samples(rgp_inputs *inputs, const rgp_image_header *image, uint32_t row, const char *text)
{
    bool sound = true;
    g_auto(GStrv) each = g_strsplit(text, "; ", -1);
    for (char **e = each; *e && sound; e++) {
        sound = take_sample(inputs, image, row, *e);
    }
    return sound;
}

void rgp_inputs_whole(rgp_inputs *inputs, uint32_t row, uint16_t sensor, int32_t raw)
{
    const rgp_input_sample sample = {.row = row, .sensor = sensor, .whole = true, .raw = raw};
    g_array_append_val(inputs->sample, sample);
}

/* ---- lines ------------------------------------------------------------------------------------------ */

static bool find_command(const char *word, uint8_t *what)
{
    *what = 0;
    while (*what < RGP_COMMANDS && strcmp(rgp_command_word(*what), word) != 0) {
        (*what)++;
    }
    return *what < RGP_COMMANDS;
}

static bool take_command(const json_t *line, rgp_input *to, const char **of)
{
    const char *word, *by;
    double value, seconds = 0.0;
    json_int_t tick;
    *of = "";
    if (json_unpack((json_t *)line, "{s:b, s:I, s:s, s:s, s:F, s?s, s?F}", "in", &(int){0}, "tick", &tick, "by", &by,
                    "do", &word, "value", &value, "of", of, "seconds", &seconds) != 0 ||
        !find_command(word, &to->command.what)) {
        return false;
    }
    to->kind = RGP_INPUT_COMMAND;
    to->tick = (uint64_t)tick;
    for (uint32_t author = 0; author < RGP_AUTHORS; author++) {
        to->command.by = strcmp(by, rgp_author_word((uint8_t)author)) == 0 ? (uint8_t)author : to->command.by;
    }
    to->command.value = (float)value;
    to->command.seconds = (float)seconds;
    return true;
}

static bool take_edge(const json_t *line, rgp_input *to, const char **of)
{
    const char *event;
    json_int_t tick, time_us = 0, number = 0;
    if (json_unpack((json_t *)line, "{s:s, s:s, s:I, s?I, s?I, s?I}", "event", &event, "of", of, "tick", &tick, "us",
                    &time_us, "value", &number, "ticks", &number) != 0) {
        return false;
    }
    to->kind = strcmp(event, rgp_event_word(RGP_EVENT_EDGE)) == 0       ? RGP_INPUT_EDGE
               : strcmp(event, rgp_event_word(RGP_EVENT_OVERFLOW)) == 0 ? RGP_INPUT_LOST
                                                                        : RGP_INPUT_GAP;
    to->tick = (uint64_t)tick;
    to->time_us = (uint64_t)time_us;
    to->number = (uint32_t)number;
    return to->kind != RGP_INPUT_GAP || strcmp(event, "gap") == 0;
}

void rgp_inputs_line(rgp_inputs *inputs, const json_t *line)
{
    rgp_input input = {0};
    const char *of;
    if (line && (take_command(line, &input, &of) || take_edge(line, &input, &of))) {
        input.of = g_strdup(of);
        g_array_append_val(inputs->line, input);
    }
}
