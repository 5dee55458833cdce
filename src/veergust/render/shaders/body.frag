#version 330 core
// Flat ink in three steps: shade, lit, and a paper rim where the form turns away, which keeps limbs apart.
uniform vec3 ink;
uniform vec3 light;
uniform vec3 paper;
uniform vec3 eye;
uniform float opacity;
uniform float flat_ink;
in vec3 world;
in vec3 facing;
out vec4 colour;

void main() {
    vec3 n = normalize(facing);
    vec3 v = normalize(eye - world);
    if (dot(n, v) < 0.0) n = -n;
    float lit = dot(n, normalize(vec3(0.35, 0.8, 0.55)));
    vec3 shade = mix(ink, light, smoothstep(0.52, 0.60, lit));
    float rim = smoothstep(0.80, 0.94, 1.0 - abs(dot(n, v)));
    shade = mix(shade, mix(light, paper, 0.35), rim * 0.55);
    colour = vec4(mix(shade, ink, flat_ink), opacity);
}
