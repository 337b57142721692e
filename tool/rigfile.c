/* A rig file from the disk, compiled, its messages shown. */
#include "rigfile.h"

#include "files/files.h"
#include "runtime/ports.h"

#include <stdio.h>

#define LINES_TOLD 6 /* by their numbers */

rgp_rig *rigfile_compile(const command *self, const char *path)
{
    g_autofree char *text = NULL;
    gsize length = 0;
    g_autoptr(GError) error = NULL;
    if (!rgp_file_read(path, &text, &length, &error)) {
        command_refuse(self, "%s", error->message);
        return NULL;
    }
    rgp_rig *rig = rgp_rig_compile(path, text, length, rgp_ports_catalog());
    if (!rig) {
        command_refuse(self, "%s: out of memory", path);
    }
    return rig;
}

bool rigfile_report(rgp_rig *rig)
{
    fputs(rgp_rig_report(rig), stderr);
    if (!rig->image) {
        g_autofree char *shown = rgp_make_printable(g_strdup(rig->file), false);
        fprintf(stderr, "%s: %u %s; nothing was run\n", shown, rig->errors, rig->errors == 1 ? "error" : "errors");
    }
    return rig->image != NULL;
}

rgp_rig *rigfile_load(const command *self, const char *path)
{
    rgp_rig *rig = rigfile_compile(self, path);
    if (rig && !rigfile_report(rig)) {
        rgp_rig_free(rig);
        return NULL;
    }
    return rig;
}

char *rigfile_driving_lines(const rgp_rig *rig, const char *actuator, uint32_t but)
{
    uint32_t all[LINES_TOLD + 1], line[LINES_TOLD + 1];
    const uint32_t driving = rgp_rig_driving_lines(rig, actuator, all, LINES_TOLD + 1);
    uint32_t lines = 0;
    for (uint32_t i = 0; i < MIN(driving, LINES_TOLD + 1); i++) {
        line[lines] = all[i];
        lines += all[i] != but;
    }
    if (lines > LINES_TOLD) {
        return g_strdup_printf("%u lines", driving - (but > 0));
    }
    GString *told = g_string_new(lines == 1 ? "line" : "lines");
    for (uint32_t i = 0; i < lines; i++) {
        g_string_append_printf(told, "%s %u", i == 0 ? "" : i + 1 == lines ? " and" : ",", line[i]);
    }
    return g_string_free(told, lines == 0);
}

bool rigfile_fits_port(const command *self, const rgp_rig *rig, bool fast, bool seed, bool pace)
{
    const struct {
        bool asked;
        const char *option;
    } simulated[] = {{fast, "--fast"}, {seed, "--seed"}, {pace, "--pace"}};
    for (size_t i = 0; i < G_N_ELEMENTS(simulated) && rgp_ports_is_real(rig); i++) {
        if (simulated[i].asked) {
            command_refuse(self,
                           "%s is for the simulated port; this rig is hooked up to '%s': leave it out, or add "
                           "--port sim",
                           simulated[i].option, rig->hookup->port);
            return false;
        }
    }
    return true;
}
