/* rigpulse convert: a recording in a format that another tool reads. */
#include "tool/command.h"
#include "tool/reading.h"

#include "analysis/exports/exports.h"

#include <stdio.h>

static char *kinds_told(void)
{
    GString *all = g_string_new(NULL);
    for (const rgp_export_kind *k = rgp_export_kinds; k->ending; k++) {
        g_string_append_printf(all, "%s%s", all->len ? ", " : "", k->ending);
    }
    return g_string_free(all, FALSE);
}

static int write_it(const command *self, const char *name, const rgp_export_kind *kind, rgp_export *ask)
{
    g_autoptr(GError) error = NULL;
    rgp_recording *recording = reading_whole(name, &error);
    ask->recording = recording;
    ask->says = g_string_new(NULL);
    int status = EXIT_DONE;
    if (!recording || !kind->write(ask, &error)) {
        status = command_refuse(self, "%s", error->message);
    } else {
        puts(ask->path);
        fputs(rgp_make_printable(ask->says->str, true), stdout);
        g_autofree char *complaint = rgp_recording_complaint(recording);
        if (complaint) {
            fprintf(stderr, "rigpulse convert: %s\n", complaint);
            status = EXIT_FAULT;
        }
    }
    g_string_free(ask->says, TRUE);
    rgp_recording_free(recording);
    return status;
}

static int run_convert(const command *self, int argc, char **argv)
{
    g_autofree char *output = NULL, *column = NULL;
    gboolean overwrite = FALSE;
    const GOptionEntry entries[] = {
        {"output", 'o', 0, G_OPTION_ARG_FILENAME, &output, "where to; its ending says the format", "FILE"},
        {"column", 0, 0, G_OPTION_ARG_FILENAME, &column, "of a .wav: the value that becomes a sound", "NAME"},
        {"overwrite", 0, 0, G_OPTION_ARG_NONE, &overwrite, "also over a file that is there", NULL},
        {NULL, 0, 0, 0, NULL, NULL, NULL},
    };
    int status;
    if (!command_options(self, entries, &argc, &argv, 1, 1, &status)) {
        return status;
    }
    const rgp_export_kind *kind = output ? rgp_export_kind_of(output) : NULL;
    if (!kind) {
        g_autofree char *all = kinds_told();
        return command_refuse(self, "say where to, with -o and a name that ends with one of %s; for example: %s", all,
                              self->example);
    }
    if (kind->one_column != (column != NULL)) {
        return command_refuse(self, column ? "--column is for a .wav; the other formats take all of them"
                                           : "a .wav takes one value; say which, with --column NAME");
    }
    if (!overwrite && g_file_test(output, G_FILE_TEST_EXISTS)) {
        return command_refuse(self, "%s is there already; take another name, or add --overwrite", output);
    }
    rgp_export ask = {.path = output, .column = column};
    return write_it(self, argv[1], kind, &ask);
}

const command command_convert = {"convert", "RECORDING -o FILE",
                                 "writes a recording for other tools: .vcd, .sqlite, .json, .wav",
                                 "rigpulse convert basin.csv -o basin.vcd", run_convert};
