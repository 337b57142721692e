/* The options that say which port a rig runs on. */
#include "port_option.h"

#include "runtime/ports.h"

port_option port_options;

bool port_option_take(const command *self)
{
    if (port_options.guard) {
        rgp_ports_guard();
    }
    if (rgp_ports_choose(port_options.port)) {
        return true;
    }
    g_autoptr(GString) all = g_string_new(NULL);
    for (const rgp_catalog *c = rgp_ports_catalog(); c; c = c->next) {
        g_string_append_printf(all, "%s%s", all->len ? ", " : "", c->port);
    }
    command_refuse(self, "--port %s: there is no such port; there are: %s", port_options.port, all->str);
    return false;
}

bool port_option_fits(const command *self, const rgp_rig *rig, bool fast, bool seed, bool pace)
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
